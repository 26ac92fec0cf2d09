<script setup lang="ts">
/** Limits as one short text: "0 to 80", "from 18", "to 100", or nothing. */
import { computed, ref, useTemplateRef } from 'vue'

import type { Schema } from '@/api/client'
import { useDraft } from '@/parts/draft'

type Limits = Schema['Limits']
const props = defineProps<{ limits: Limits; differs?: boolean }>()
const emit = defineEmits<{ change: [limits: Limits] }>()

const written = computed(() => {
  if (props.differs) return ''
  const { low, high } = props.limits
  if (low && high) return `${low} to ${high}`
  return low ? `from ${low}` : high ? `to ${high}` : ''
})
const field = useTemplateRef<HTMLInputElement>('field')
const draft = useDraft(() => written.value, 'limits', field)
const { text } = draft
const wrong = ref(false)

const PATTERN = /^(?:(?:from\s+)?(\S+))?(?:\s*(?:\.\.|\bto\b)\s*(\S+))?$/

function done(): void {
  const typed = text.value.trim()
  if (typed === written.value) return
  const found = PATTERN.exec(typed)
  wrong.value = !found
  if (!found) return
  draft.agree()
  emit('change', { low: found[1] ?? null, high: found[2] ?? null })
}
</script>

<template>
  <label class="limits">
    <span class="soft">limits</span>
    <input
      ref="field" v-model="text" aria-label="Limits" :placeholder="differs ? 'differs' : 'none'" title="For example: 0 to 80, from 18, to 100" :aria-invalid="wrong"
      :style="{ width: `${Math.max(text.length, differs ? 7 : 4) + 1}ch` }" data-test="limits"
      @blur="done" @keydown.enter.prevent="done" @keydown.esc.prevent="draft.restore"
    />
  </label>
</template>

<style scoped>
.limits {
  display: inline-flex;
  gap: 5px;
  align-items: center;
}

input {
  border-bottom: 1.5px solid var(--line2);
  min-height: 26px;
  outline: none;
}

input:focus {
  border-color: var(--leaf);
  background: var(--white);
}

input[aria-invalid='true'] {
  border-color: var(--beet);
}

input::placeholder {
  color: var(--dim);
  opacity: 1;
}
</style>
