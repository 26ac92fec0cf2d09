<script setup lang="ts">
/** What is done beside the diary: a title, what it is about, and at the foot what can be done. */
defineProps<{ title: string; label: string }>()
</script>

<template>
  <aside class="side" data-room tabindex="-1" :aria-label="label">
    <div class="body scroll" tabindex="-1">
      <h3 class="clamped">{{ title }}</h3>
      <slot />
    </div>
    <footer><slot name="foot" /></footer>
  </aside>
</template>

<style scoped>
.side {
  flex: 1 1 50%;
  min-width: 0;
  display: flex;
  flex-direction: column;
  background: var(--bed);
  border-left: 1px solid var(--line2);
}

.body {
  flex: 1;
  min-height: 0;
  padding: 20px 28px;
}

h3 {
  font-size: 17px;
  font-weight: 650;
}

footer {
  flex: none;
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 12px 28px;
  border-top: 1px solid var(--line);
}
</style>
