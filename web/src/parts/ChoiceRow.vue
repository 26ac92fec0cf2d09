<script setup lang="ts" generic="T extends string">
/** A few choices side by side, one of which holds. */
import { computed } from 'vue'

const props = defineProps<{ choices: Record<T, string>; label: string; test: string }>()
const all = computed(() => Object.entries(props.choices) as [T, string][])
const chosen = defineModel<T>({ required: true })
</script>

<template>
  <span class="choices" role="group" :aria-label="label">
    <button v-for="[choice, word] in all" :key="choice" :aria-pressed="chosen === choice" :data-test="`${test}-${choice}`" @click="chosen = choice">{{ word }}</button>
  </span>
</template>

<style scoped>
.choices {
  display: inline-flex;
  border: 1px solid var(--edge);
  border-radius: 6px;
  overflow: hidden;
}

button {
  padding: 3px 10px;
  background: var(--white);
}

button + button {
  border-left: 1px solid var(--line2);
}

button[aria-pressed='true'] {
  background: var(--leaf-deep);
  color: #fff;
}
</style>
