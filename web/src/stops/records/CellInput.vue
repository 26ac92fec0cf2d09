<script setup lang="ts">
/** The entry that is being typed, over the chosen cell. */
import { onMounted, useTemplateRef } from 'vue'

const text = defineModel<string>({ required: true })
const field = useTemplateRef<HTMLInputElement>('field')
onMounted(() => field.value?.focus())
</script>

<template>
  <input ref="field" v-model="text" class="typed" aria-label="Entry" data-test="typed" />
</template>

<style scoped>
.typed {
  position: absolute;
  top: 0;
  left: 0;
  z-index: 2;
  height: 100%;
  padding: 0 8px;
  font-size: 13px;
  background: var(--white);
  box-shadow: inset 0 0 0 2px var(--leaf);
}

.typed:focus-visible {
  outline: none;
}

.typed.frozen {
  position: sticky;
  flex: none;
}
</style>
