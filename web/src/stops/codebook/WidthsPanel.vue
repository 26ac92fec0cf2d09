<script setup lang="ts">
/** Widths as declared and as needed, and what trimming saves in fixed columns. */
import { computed, ref } from 'vue'

import { type AnyStep, api, got } from '@/api/client'
import { useAsked } from '@/study/asked'
import { bytes, count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { useChosen } from './chosen'
import PanelShell from './PanelShell.vue'

const study = useStudy()
const chosen = useChosen()
const all = ref(chosen.ids.length < 2)
const found = useAsked(
  'widths',
  () => [study.id, all.value ? [] : chosen.ids, study.stamp({ tags: 'all', entries: 'all', order: true })] as const,
  ([, variables]) => got(api.POST('/api/studies/{study_id}/widths', { params: { path: { study_id: study.id } }, body: { variables } })),
)
const rows = computed(() =>
  (found.value?.widths ?? []).map((each) => ({ ...each, name: study.byId.get(each.id)?.name })),
)
const differing = computed(() => rows.value.filter((row) => row.declared !== row.needed))
const step = computed<AnyStep | null>(() =>
  differing.value.length ? { do: 'trim widths', format: 1, variables: differing.value.map((row) => row.id) } : null,
)
</script>

<template>
  <PanelShell title="Widths" word="Trim widths" :step="step" why="Every width is what the longest entry needs." lead="A width never cuts an entry: one that is longer is a finding.">
    <label v-if="chosen.ids.length > 1" class="scope"><input v-model="all" type="checkbox" /> of the whole study, not only the {{ chosen.ids.length }} chosen</label>
    <p v-if="found" data-test="saving">
      <template v-if="found.saving > 0">Trimming saves <b>{{ counted(found.saving, 'character') }}</b> a record in fixed columns, {{ bytes(found.saving * found.records) }} over {{ counted(found.records, 'record') }}.</template>
      <template v-else-if="found.saving < 0">{{ counted(-found.saving, 'character') }} a record are missing: some entries are longer than declared.</template>
      <template v-else>Nothing to save.</template>
    </p>
    <table v-if="rows.length">
      <thead><tr><th>variable</th><th class="right">declared</th><th class="right">needed</th></tr></thead>
      <tbody>
        <tr v-for="row in rows.slice(0, 500)" :key="row.id" :class="{ soft: row.declared === row.needed }">
          <td class="mono">{{ row.name }}</td>
          <td class="right">{{ row.declared ?? 'none' }}</td>
          <td class="right" :class="{ beet: row.declared !== null && row.needed > row.declared }">{{ count(row.needed) }}</td>
        </tr>
      </tbody>
    </table>
  </PanelShell>
</template>

<style scoped>
table {
  max-width: 420px;
}

.scope {
  display: flex;
  gap: 6px;
  align-items: center;
  font-size: 13px;
}

p {
  margin: 4px 0 10px;
  font-size: 13px;
}
</style>
