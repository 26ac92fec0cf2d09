<script setup lang="ts">
import { computed } from 'vue'

import type { TableRow, VariableTable } from '@/api/client'
import { count, percent, weighed } from '@/study/shown'
import { useStudy } from '@/study/store'

const props = defineProps<{ table: VariableTable }>()
const study = useStudy()

const ordered = computed(() => props.table.level === 'ordinal')
const of = (reading: TableRow['reading']): TableRow[] => props.table.rows.filter((row) => row.reading === reading)
const valid = computed(() => of('valid'))
const rest = computed(() => [...of('missing'), ...of('stray')])
const long = (row: TableRow): number => row.weighed ?? row.count
const most = computed(() => Math.max(1, ...props.table.rows.map(long)))
/** Under a weight shares are of what the records weigh, and the records are told beside that. */
const sums = computed(() => props.table.sums ?? null)
const all = computed(() => (sums.value ? sums.value.valid + sums.value.missing + sums.value.blank + sums.value.stray : props.table.records))
const share = (reading: 'valid' | 'blank'): string => (all.value ? percent((100 * (sums.value?.[reading] ?? props.table.fill[reading])) / all.value) : '')
const width = (row: TableRow): { width: string } => ({ width: row.count ? `max(3px, ${(100 * long(row)) / most.value}%)` : '0' })
const words = (row: TableRow): string => row.label || (row.reading === 'stray' ? (row.unreadable ? 'unreadable' : 'not allowed') : row.reason ?? '')
</script>

<template>
  <table class="frequency">
    <thead>
      <tr>
        <th v-if="study.show !== 'labels'" class="right">code</th><th>{{ study.show === 'codes' ? '' : 'label' }}</th><th class="right">{{ sums ? 'records' : 'count' }}</th><th v-if="sums" class="right">weighted</th><th class="right">%</th>
        <th class="right">valid %</th><th v-if="ordered" class="right">cumulative %</th><th class="picture"><span class="unseen">picture</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in valid" :key="row.code" :data-test="`row-${row.code}`">
        <td v-if="study.show !== 'labels'" class="right mono code">{{ row.code }}</td>
        <td>{{ study.show === 'codes' ? '' : row.label || (study.show === 'labels' ? row.code : '') }}</td>
        <td class="right">{{ count(row.count) }}</td><td v-if="sums" class="right">{{ weighed(row.weighed ?? 0) }}</td><td class="right">{{ percent(row.percent) }}</td><td class="right">{{ percent(row.valid_percent) }}</td>
        <td v-if="ordered" class="right">{{ percent(row.cumulative) }}</td>
        <td class="picture"><i class="share-valid" :style="width(row)" /></td>
      </tr>
      <tr class="sum" data-test="row-valid">
        <td v-if="study.show !== 'labels'" /><td>valid</td><td class="right">{{ count(table.fill.valid) }}</td><td v-if="sums" class="right">{{ weighed(sums.valid) }}</td><td class="right">{{ share('valid') }}</td>
        <td class="right">{{ table.fill.valid ? '100.0' : '' }}</td><td v-if="ordered" /><td />
      </tr>
      <tr v-for="row in rest" :key="`${row.reading} ${row.code}`" :class="row.reading" :data-test="`row-${row.code}`">
        <td v-if="study.show !== 'labels'" class="right mono code">{{ row.code }}</td>
        <td>{{ study.show === 'labels' && row.reading === 'stray' ? `${row.code} (${words(row)})` : words(row) }}</td>
        <td class="right">{{ count(row.count) }}</td><td v-if="sums" class="right">{{ weighed(row.weighed ?? 0) }}</td><td class="right">{{ percent(row.percent) }}</td><td /><td v-if="ordered" />
        <td class="picture"><i :class="`share-${row.reading}`" :style="width(row)" /></td>
      </tr>
      <tr v-if="table.fill.blank" class="blank">
        <td v-if="study.show !== 'labels'" /><td>blank</td><td class="right">{{ count(table.fill.blank) }}</td><td v-if="sums" class="right">{{ weighed(sums.blank) }}</td><td class="right">{{ share('blank') }}</td><td /><td v-if="ordered" />
        <td class="picture"><i class="share-blank" :style="{ width: `max(3px, ${(100 * (sums?.blank ?? table.fill.blank)) / most}%)` }" /></td>
      </tr>
      <tr class="sum" data-test="row-records">
        <td v-if="study.show !== 'labels'" /><td>records</td><td class="right">{{ count(table.records) }}</td><td v-if="sums" class="right">{{ weighed(all) }}</td><td class="right">{{ table.records ? '100.0' : '' }}</td><td /><td v-if="ordered" /><td />
      </tr>
    </tbody>
  </table>
  <p v-if="table.row_count > table.rows.length" class="soft">{{ count(table.row_count - table.rows.length) }} more values are not shown.</p>
</template>

<style scoped>
.frequency {
  width: 100%;
  border-collapse: collapse;
  font-size: 13.5px;
}

th {
  font-size: 12px;
  font-weight: 400;
  color: var(--soft);
  text-align: left;
}

th.right {
  text-align: right;
}

th,
td {
  padding: 4px 10px;
  height: 28px;
  border-bottom: 1px solid var(--line);
}

thead th,
.sum td {
  border-bottom-color: var(--line2);
}

.code {
  font-weight: 650;
  width: 70px;
  white-space: nowrap;
}

.picture {
  width: 220px;
}

.picture i {
  display: block;
  height: 12px;
}

.picture .share-blank {
  border: 1px solid var(--edge);
}

.sum {
  font-weight: 650;
}

.missing td,
.blank td {
  color: var(--straw-ink);
}

.stray td {
  color: var(--beet);
}
</style>
