<script setup lang="ts">
/** A field of one line: kept on Enter or when left, restored on Escape or where `keep` says that it cannot be (false). */
import { useAttrs, useTemplateRef } from 'vue'

import { useDraft } from './draft'

const props = defineProps<{ value?: string | number | null; keep: (text: string) => unknown }>()
const field = useTemplateRef<HTMLInputElement>('field')
const called = String(useAttrs()['aria-label'] ?? useAttrs()['data-test'] ?? '')
const draft = useDraft(() => String(props.value ?? ''), called, field)
const { text } = draft

function changed(): void {
  if (props.keep(String(text.value).trim()) === false) draft.restore()
  else draft.agree()
}

/** The first Escape restores, the next leads out. */
function onEscape(event: KeyboardEvent): void {
  if (String(text.value) === String(props.value ?? '')) return
  event.preventDefault()
  event.stopPropagation()
  draft.restore()
}
</script>

<template>
  <input ref="field" v-model="text" @change="changed" @keydown.esc="onEscape" />
</template>
