<script setup lang="ts">
/** Parts that are in the way: cleared on the chosen or all tags, in one step. */
import { computed, ref } from 'vue'

import type { AnyStep, Schema } from '@/api/client'
import { useStudy } from '@/study/store'
import { useChosen } from './chosen'
import PanelShell from './PanelShell.vue'

type Part = Schema['ClearParts']['parts'][number]
const PARTS: { part: Part; word: string; what: string }[] = [
  { part: 'label', word: 'labels', what: 'of the variables, not of their codes' },
  { part: 'question', word: 'question wordings', what: '' },
  { part: 'codes', word: 'code lists', what: 'own lines, or the use of a shared list' },
  { part: 'missing', word: 'missing codes', what: 'they read as valid or stray again' },
  { part: 'limits', word: 'limits', what: '' },
  { part: 'display', word: 'widths, decimals, date patterns', what: '' },
  { part: 'note', word: 'notes', what: '' },
]
const study = useStudy()
const chosen = useChosen()
const all = ref(false)
const parts = ref<Part[]>([])
const ids = computed(() => (all.value ? study.variables.map((each) => each.id) : chosen.ids))
const step = computed<AnyStep | null>(() => (parts.value.length ? { do: 'clear parts', format: 1, parts: parts.value, variables: ids.value } : null))
</script>

<template>
  <PanelShell title="Clear" word="Clear" :step="step" why="Tick what is to go." lead="No entry changes; undo brings everything back.">
    <label v-for="each in PARTS" :key="each.part" class="part"><input v-model="parts" type="checkbox" :value="each.part" :data-test="`clear-${each.part}`" /> {{ each.word }} <span class="soft">{{ each.what }}</span></label>
    <label class="part all"><input v-model="all" type="checkbox" data-test="clear-all" /> on all {{ study.variables.length }} tags, not only the {{ chosen.ids.length }} chosen</label>
  </PanelShell>
</template>

<style scoped>
.part {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 28px;
  font-size: 13.5px;
}

.all {
  margin-top: 10px;
  border-top: 1px solid var(--line);
  padding-top: 8px;
}

input {
  accent-color: var(--leaf);
}
</style>
