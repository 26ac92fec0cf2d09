<script setup lang="ts" generic="T extends string">
/** A part of a tag chosen from a few words; looks like the word until it is used. */
defineProps<{ modelValue: T; options: readonly T[]; label: string; sign?: string; differs?: boolean }>()
const emit = defineEmits<{ 'update:modelValue': [value: T] }>()
const chosen = (event: Event) => emit('update:modelValue', (event.target as HTMLSelectElement).value as T)
</script>

<template>
  <span class="part">
    <span v-if="sign && !differs" class="sign mono" aria-hidden="true">{{ sign }}</span>
    <select :value="differs ? '' : modelValue" :aria-label="label" :title="label" @change="chosen">
      <option v-if="differs" value="" disabled>differs</option>
      <option v-for="option in options" :key="option" :value="option">{{ option }}</option>
    </select>
  </span>
</template>

<style scoped>
.part {
  display: inline-flex;
  align-items: center;
  gap: 4px;
  border-bottom: 1.5px solid var(--line2);
  min-height: 26px;
}

.part:hover {
  border-color: var(--leaf);
}

.sign {
  color: var(--soil);
  font-weight: 700;
}

select {
  appearance: none;
  field-sizing: content;
  font: inherit;
  font-size: 13px;
  color: var(--ink);
  background: transparent;
  padding: 2px;
  cursor: pointer;
}

option {
  background: var(--white);
}
</style>
