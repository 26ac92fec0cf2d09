<script setup lang="ts">
/** What bears a finding out: the entries with their counts as bars, figures, and the records that it leads to. */
import { computed } from 'vue'

import { api, type Finding, got } from '@/api/client'
import { useAsked } from '@/study/asked'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'

const MOST_RECORDS = 14
const props = defineProps<{ finding: Finding }>()
const study = useStudy()
const tag = computed(() => study.byId.get(props.finding.variable))
const most = computed(() => Math.max(1, ...props.finding.evidence.map((each) => each.count)))
const bars = computed(() => props.finding.evidence.filter((each) => each.count))
const words = computed(() => props.finding.evidence.filter((each) => !each.count))
const others = computed(() => props.finding.others.map((id) => study.byId.get(id)?.name).filter(Boolean))

const records = useAsked(
  'finding records',
  () => [study.id, props.finding.variable, props.finding.check, props.finding.which ?? '', props.finding.leads, study.revision] as const,
  ([id, variable, check, which, leads]) =>
    leads
      ? got(api.GET('/api/studies/{study_id}/variables/{variable_id}/records', { params: { path: { study_id: id, variable_id: variable }, query: { check, which } } }))
      : null,
)
const first = computed(() => (records.value?.records ?? []).slice(0, MOST_RECORDS).map((record, at) => ({ record, row: records.value!.positions[at] })))
const where = computed(() => ({ variable: props.finding.variable, check: props.finding.check, ...(props.finding.which ? { which: props.finding.which } : {}) }))
</script>

<template>
  <aside class="panel evidence scroll" tabindex="0" aria-label="Evidence" data-test="evidence">
    <h3><span class="mono">{{ tag?.name }}</span> {{ tag?.label }}</h3>
    <p v-if="tag?.question" class="wording">{{ tag.question }}</p>
    <p class="said">{{ finding.message }}</p>
    <p v-if="others.length" class="soft">Together with <span class="mono">{{ others.slice(0, 8).join(', ') }}</span>{{ others.length > 8 ? ` and ${count(others.length - 8)} more` : '' }}</p>
    <dl v-if="bars.length" class="bars" aria-label="Entries">
      <template v-for="each in bars.slice(0, 12)" :key="each.entry">
        <dt class="cut mono" :title="each.entry">{{ each.entry.trim() || 'blank' }}</dt>
        <dd><i :style="{ width: `${Math.max(1.5, (100 * each.count) / most)}%` }" /><span>{{ count(each.count) }}</span></dd>
      </template>
    </dl>
    <p v-if="finding.evidence_count > 12" class="soft">{{ count(finding.evidence_count) }} different ones in all</p>
    <p v-if="words.length" class="soft">Codes: <span class="mono">{{ words.slice(0, 20).map((each) => each.entry).join(', ') }}</span></p>
    <table v-if="finding.table?.length" class="figures">
      <thead><tr><th v-for="head in finding.table[0]" :key="head" scope="col">{{ head }}</th></tr></thead>
      <tbody><tr v-for="(row, at) in finding.table.slice(1)" :key="at"><td v-for="(cell, column) in row" :key="column" :class="{ number: column > 0, mono: !column && finding.table[0]?.[0] === 'item' }">{{ cell }}</td></tr></tbody>
    </table>
    <template v-if="first.length">
      <h4>Records</h4>
      <p class="records">
        <router-link v-for="each in first" :key="each.record" class="act" :to="{ name: 'records', params: { study: study.id }, query: { variable: finding.variable, row: each.row ?? 0 } }">{{ count(each.record) }}</router-link>
        <router-link class="act" data-test="see-records" :to="{ name: 'records', params: { study: study.id }, query: where }">see the records</router-link>
      </p>
    </template>
    <p class="soft check">{{ finding.check }} · {{ finding.family }}<template v-if="finding.count"> · {{ counted(finding.count, 'entry or record', 'entries or records') }}</template></p>
  </aside>
</template>

<style scoped>
.evidence {
  padding: 14px 18px;
  font-size: 13.5px;
  align-self: start;
  position: sticky;
  top: 0;
  max-height: calc(100dvh - 118px);
}

h3 {
  font-size: 14px;
  font-weight: 650;
}

h4 {
  font-size: 13px;
  font-weight: 650;
  margin-top: 14px;
}

.wording {
  font-family: var(--serif);
  color: var(--soil);
  margin-top: 4px;
}

.said {
  margin: 8px 0;
}

.bars {
  display: grid;
  grid-template-columns: minmax(60px, 42%) 1fr;
  gap: 5px 12px;
  margin: 10px 0;
  align-items: center;
}

dt,
dd {
  margin: 0;
  font-size: 12.5px;
}

dd {
  display: flex;
  align-items: center;
  gap: 8px;
}

dd i {
  height: 13px;
  background: var(--leaf);
  border-radius: 1px;
  max-width: calc(100% - 60px);
}

.figures {
  border-collapse: collapse;
  margin: 10px 0;
  font-size: 12.5px;
}

.figures th,
.figures td {
  text-align: left;
  padding: 3px 16px 3px 0;
  border-bottom: 1px solid var(--line);
  font-weight: 400;
}

.figures th {
  color: var(--soft);
}

.figures .number {
  text-align: right;
}

.records {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
}

.check {
  margin-top: 14px;
  font-size: 12.5px;
}
</style>
