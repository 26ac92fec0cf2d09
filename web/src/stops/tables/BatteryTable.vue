<script setup lang="ts">
/** The items of a battery as one picture: each a bar of its answers, laid around the middle of the list. */
import { computed } from 'vue'

import type { Schema } from '@/api/client'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { fillAround } from './fills'

const { table } = defineProps<{ table: Schema['BatteryTable'] }>()
const study = useStudy()
const words = ({ code, label }: Schema['Value']): string => (study.show === 'codes' ? code : study.show === 'labels' ? label || code : [code, label].filter(Boolean).join(' '))

const of = computed(() => table.values.length)
/** How much of a bar stands left of the middle. */
const before = (percents: (number | null)[]): number => percents.reduce<number>((sum, share, at) => sum + (share ?? 0) * Math.min(1, Math.max(0, of.value / 2 - at)), 0)
const most = computed(() => Math.max(...table.items.map((item) => before(item.percents))))
const whole = computed(() => most.value + Math.max(...table.items.map((item) => 100 - before(item.percents))))
const wide = (share: number): string => `${(100 * share) / whole.value}%`
const mean = (item: Schema['Item']): string => (typeof item.figures?.mean === 'number' ? item.figures.mean.toFixed(2) : '–')
const means = computed(() => table.items.some((item) => item.figures))
</script>

<template>
    <div class="scroll wide" data-wide tabindex="0" aria-label="Table">
      <table>
        <thead class="soft"><tr><th>item</th><th class="right">n</th><th v-for="value in table.values" :key="value.code" class="right hidden-cell">{{ words(value) }} %</th><th v-if="means" class="right">mean</th><th class="picture"><span class="unseen">picture</span></th></tr></thead>
        <tbody>
          <tr v-for="item in table.items" :key="item.variable.id" :data-test="`item-${item.variable.name}`">
            <th scope="row" :title="item.variable.question">{{ item.variable.label || item.variable.name }}</th><td class="right">{{ count(item.valid) }}</td>
            <td v-for="(share, at) in item.percents" :key="at" class="right hidden-cell">{{ share?.toFixed(1) ?? '–' }}</td>
            <td v-if="means" class="right">{{ mean(item) }}</td>
            <td class="picture">
              <span class="bar" aria-hidden="true"><i :style="{ width: wide(most - before(item.percents)), border: 0 }" /><template v-for="(share, at) in item.percents" :key="at"><b v-if="share" :class="{ dark: fillAround(at, of).dark }" :style="{ width: wide(share), background: fillAround(at, of).background }" :title="`${words(table.values[at]!)}: ${share.toFixed(1)} %`">{{ share >= 4 ? Math.round(share) : '' }}</b></template></span>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p class="keys soft" aria-hidden="true"><span v-for="(value, at) in table.values" :key="value.code"><i :style="{ background: fillAround(at, of).background }" />{{ words(value) }}</span></p>
    <p class="foot" data-foot>Percent of valid answers{{ table.weighed ? ', weighted' : '' }}.<template v-if="means"> For the means codes are taken for equal steps.</template><template v-if="typeof table.alpha === 'number'"> Alpha over {{ counted(table.complete, 'record') }} that answered all of them.</template> <span class="out">Left out: {{ table.items.map((item) => `${item.variable.name} ${count(item.left)}`).join(', ') }} of {{ counted(table.records, 'record') }}.</span></p>
</template>

<style scoped>
.wide {
  overflow-x: auto;
}

table {
  border-collapse: collapse;
  width: 100%;
  font-size: 13px;
}

th,
td {
  height: 30px;
  padding: 2px 10px 2px 0;
  font-weight: 400;
  text-align: left;
}

.right {
  text-align: right;
}

/* The shares stand in the bars; they are read out, and go along when the table is copied. */
.hidden-cell {
  font-size: 0;
  padding: 0;
  width: 0;
}

.picture {
  width: 62%;
  padding: 0 0 0 12px;
}

.bar {
  display: flex;
  height: 20px;
}

.bar b {
  display: grid;
  place-items: center;
  min-width: 0;
  overflow: hidden;
  border: 1px solid var(--ink);
  margin-right: -1px;
  font-size: 12px;
  font-weight: 400;
  color: var(--ink);
}

.bar .dark {
  color: var(--white);
}

.keys {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  margin-top: 10px;
  font-size: 12px;
}

.keys i {
  display: inline-block;
  width: 12px;
  height: 12px;
  margin-right: 6px;
  border: 1px solid var(--ink);
  vertical-align: -2px;
}

.foot {
  margin-top: 8px;
  font-size: 13px;
}

.out {
  color: var(--straw-ink);
}
</style>
