<script setup lang="ts">
/** A crosstab as a table with its bars, which run in the direction of the percent. */
import { computed } from 'vue'

import type { Schema } from '@/api/client'
import { count, counted, figure, percent, weighed } from '@/study/shown'
import { useStudy } from '@/study/store'
import { fillOf } from './fills'

const { table } = defineProps<{ table: Schema['CrosstabTable'] }>()
const study = useStudy()
const words = ({ code, label, reading }: Schema['Value']): string =>
  reading === 'stray' ? `${code || 'other'} (stray)` : study.show === 'codes' ? code || label : study.show === 'labels' ? label || code : [code, label].filter(Boolean).join(' ')
const columns = computed(() => [...table.column_values.map(words), 'all'])
const sum = (value: number): string => (table.weighed ? weighed(value) : count(value))
const share = (value: number | null | undefined): string => (value === null || value === undefined ? '–' : percent(value))
const down = computed(() => table.percent === 'column')
const along = computed(() => table.percent === 'row')
/** Parts of a bar worth drawing, with their shares. */
const parts = (shares: (number | null)[]): { at: number; share: number }[] => shares.map((value, at) => ({ at, share: value ?? 0 })).filter((each) => each.share > 0)
const p = (value: number): string => (value < 0.001 ? 'p < 0.001' : `p = ${value.toFixed(3)}`)
const together = computed(() => {
  const { chi_square: chi, v, gamma, tau_b } = table.association
  const found = []
  if (chi) found.push(`Chi-square ${figure(chi.value)}, ${chi.freedom} df, ${p(chi.p)}${chi.few > 0.2 ? ` (${Math.round(100 * chi.few)} % of the cells expect fewer than 5: it fits badly)` : ''}`)
  if (v !== null) found.push(`Cramér’s V ${v.toFixed(2)}`)
  if (gamma !== null) found.push(`gamma ${gamma.toFixed(2)}`)
  if (tau_b !== null) found.push(`tau-b ${tau_b.toFixed(2)}`)
  const of = `of ${counted(table.association.records, 'record')}${table.tables.length > 1 ? ' in all tables together' : ''}`
  return found.length ? `${found.join(', ')}, ${of}${table.weighed ? ', from weighted sums' : ''}.` : ''
})
</script>

<template>
  <div v-for="(cells, layer) in table.tables" :key="layer" class="layer scroll" data-wide tabindex="0" :aria-label="cells.within ? words(cells.within) : 'Table'">
    <h3 v-if="cells.within">{{ table.within?.label || table.within?.name }}: {{ words(cells.within) }}</h3>
    <table data-test="crosstab">
      <thead>
        <tr><th /><th v-for="(column, at) in columns" :key="at" colspan="2" class="right value">{{ column }}</th><th v-if="along" class="picture" /></tr>
        <tr class="soft"><th>{{ table.rows.label || table.rows.name }}</th><template v-for="(_, at) in columns" :key="at"><th class="right">{{ table.weighed ? 'weighted' : 'count' }}</th><th class="right">%</th></template><th v-if="along" class="picture"><span class="unseen">picture</span></th></tr>
      </thead>
      <tbody>
        <tr v-for="(row, at) in [...table.row_values.map(words), 'all']" :key="at" :class="{ sum: at === table.row_values.length, aside: table.row_values[at] && table.row_values[at].reading !== 'valid' }">
          <th scope="row"><i v-if="down && at < table.row_values.length" class="key" :style="fillOf(at)" />{{ row }}</th>
          <template v-for="(_, column) in columns" :key="column"><td class="right">{{ sum(cells.sums[at]![column]!) }}</td><td class="right share">{{ share(cells.percents[at]![column]) }}</td></template>
          <td v-if="along" class="picture"><span class="bar"><i v-for="part in parts(cells.percents[at]!.slice(0, -1))" :key="part.at" :style="{ ...fillOf(part.at), width: `${part.share}%` }" :title="`${columns[part.at]}: ${percent(part.share)} %`" /></span></td>
        </tr>
        <tr v-if="table.weighed" class="soft"><th scope="row">records</th><template v-for="(_, at) in columns" :key="at"><td class="right">{{ count(cells.records.at(-1)![at]!) }}</td><td /></template><td v-if="along" class="picture" /></tr>
        <tr v-if="down" class="bars" aria-hidden="true">
          <th class="picture soft">Percent run down the column, so each bar stands on its own.</th>
          <td v-for="(_, at) in columns" :key="at" colspan="2" class="picture"><span class="pile"><i v-for="part in parts(cells.percents.slice(0, -1).map((row) => row[at]!))" :key="part.at" :style="{ ...fillOf(part.at), height: `${part.share}%` }"><b v-if="part.share >= 12">{{ Math.round(part.share) }} %</b></i></span></td>
        </tr>
      </tbody>
    </table>
    <p v-if="along" class="keys soft" aria-hidden="true"><span v-for="(column, at) in columns.slice(0, -1)" :key="at"><i class="key" :style="fillOf(at)" />{{ column }}</span></p>
  </div>
  <p v-if="together" class="together soft" data-foot data-test="association">{{ together }}</p>
</template>

<style scoped>
.layer {
  overflow-x: auto;
}

h3 {
  font-size: 14px;
  margin: 14px 0 2px;
}

table {
  border-collapse: collapse;
  font-size: 13px;
  min-width: 60%;
}

th,
td {
  padding: 4px 10px;
  height: 28px;
  font-weight: 400;
  text-align: left;
  border-bottom: 1px solid var(--line);
}

.right {
  text-align: right;
}

.value,
.share,
.sum > * {
  font-weight: 650;
}

tbody th {
  min-width: 190px;
}

.sum > * {
  border-top: 1px solid var(--line2);
}

.aside > * {
  color: var(--straw-ink);
}

.key {
  display: inline-block;
  width: 14px;
  height: 12px;
  margin-right: 8px;
  border: 1px solid var(--ink);
  vertical-align: -1px;
}

.bars > * {
  border: 0;
  vertical-align: bottom;
  padding-top: 10px;
}

.bars th {
  font-size: 12px;
  max-width: 190px;
}

.pile {
  display: flex;
  flex-direction: column;
  width: 84px;
  height: 126px;
  margin-left: auto;
}

.pile i,
.bar i {
  display: grid;
  place-items: center;
  border: 1px solid var(--ink);
  margin: 0 0 -1px;
  min-height: 0;
  overflow: hidden;
}

.pile b {
  padding: 0 5px;
  border-radius: 4px;
  background: var(--white);
  font-size: 12px;
  font-style: normal;
}

.bar {
  display: flex;
  width: 130px;
  height: 16px;
}

.bar i {
  margin: 0 -1px 0 0;
}

.keys {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  margin-top: 8px;
  font-size: 12px;
}

.together {
  margin-top: 8px;
  font-size: 13px;
}
</style>
