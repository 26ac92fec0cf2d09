<script setup lang="ts">
defineProps<{ count: number; most: number; kind: 'valid' | 'missing' | 'stray' }>()
</script>

<template>
  <span class="bar" aria-hidden="true">
    <i v-if="count" :class="`share-${kind}`" :style="{ width: `max(3px, ${(100 * count) / most}%)` }" />
  </span>
</template>

<style scoped>
.bar {
  flex: 1;
  display: block;
  height: 12px;
  background: linear-gradient(var(--line), var(--line)) 0 50% / 100% 1px no-repeat;
}

i {
  display: block;
  height: 12px;
}
</style>
