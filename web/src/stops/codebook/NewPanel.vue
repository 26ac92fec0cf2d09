<script setup lang="ts">
/** New variables: one line each, a name and perhaps a label. They come to stand behind the chosen tag. */
import { computed, ref } from 'vue'

import { type AnyStep, newId, type Schema } from '@/api/client'
import { useStudy } from '@/study/store'
import { useChosen } from './chosen'
import PanelShell from './PanelShell.vue'

const study = useStudy()
const chosen = useChosen()
const text = ref('')
const ids = Array.from({ length: 500 }, () => newId().slice(0, 12))
const behind = computed(() => {
  const at = study.variables.findIndex((each) => each.id === chosen.ids.at(-1))
  return study.variables[at + 1]?.id ?? null
})
const step = computed<AnyStep | null>(() => {
  const lines = text.value.split('\n').map((line) => line.trim()).filter(Boolean).slice(0, ids.length)
  if (!lines.length) return null
  const variables = lines.map((line, number) => {
    const [name = '', ...words] = line.split(/[\t ]+/)
    return { id: ids[number]!, tag: { name, label: words.join(' '), type: 'integer' } as Schema['Tag'] }
  })
  return { do: 'add variables', format: 1, variables, batteries: {}, sections: {}, lists: {}, origin: '', before: behind.value } as AnyStep
})
</script>

<template>
  <PanelShell title="New variables" word="Add" :step="step" why="Type at least one name." lead="One a line: the name, then its label. They are whole numbers until you say otherwise, and blank in every record.">
    <textarea v-model="text" class="mono lines-to-type" rows="8" placeholder="shade How shady the plot is" aria-label="Names and labels of new variables" spellcheck="false" data-test="new-lines" />
  </PanelShell>
</template>
