<script setup lang="ts">
/** A measured variable by groups: figures, and boxes side by side on one scale. */
import { computed } from 'vue'

import type { Schema } from '@/api/client'
import { count, figure, weighed } from '@/study/shown'
import { useStudy } from '@/study/store'

const { table } = defineProps<{ table: Schema['GroupsTable'] }>()
const study = useStudy()
const words = (value: Schema['Value'] | null): string =>
  value === null ? 'all together' : study.show === 'codes' ? value.code : study.show === 'labels' ? value.label || value.code : [value.code, value.label].filter(Boolean).join(' ')

/** Means and spreads of one table have as many decimals each, so that they can be compared down a column. */
const decimals = computed(() => (table.groups.every(({ figures }) => Math.abs(figures.mean ?? 0) >= 1000) ? 1 : 2))
const even = (value: number | null | undefined): string => (value === null || value === undefined ? '–' : value.toFixed(decimals.value))

const WIDTH = 340
/** Round steps of the scale that go from the least to the greatest end of a box. */
const scale = computed(() => {
  const ends = table.groups.flatMap(({ figures }) => [figures.low, figures.high, figures.mean]).filter((each) => typeof each === 'number')
  const [least, greatest] = [Math.min(...ends), Math.max(...ends)]
  const rough = (greatest - least || 1) / 5
  const ten = 10 ** Math.floor(Math.log10(rough))
  const step = [1, 2, 5, 10].map((each) => each * ten).find((each) => each >= rough)!
  const first = Math.floor(least / step) * step
  const marks = Array.from({ length: Math.ceil((greatest - first) / step) + 1 }, (_, at) => Number((first + at * step).toPrecision(12)))
  return { marks, at: (value: number) => 6 + ((WIDTH - 12) * (value - first)) / (marks.at(-1)! - first || 1) }
})
const drawn = computed(() => Number.isFinite(scale.value.at(0)))
</script>

<template>
  <div class="scroll wide" data-wide tabindex="0" aria-label="Table">
    <table data-test="groups">
      <thead>
        <tr class="soft"><th>{{ table.by.label || table.by.name }}</th><th class="right">n</th><th v-if="table.weighed" class="right">weighted n</th><th class="right">mean</th><th class="right">sd</th><th class="right">median</th>
          <th class="picture"><svg v-if="drawn" :width="WIDTH" height="16" aria-hidden="true"><text v-for="mark in scale.marks" :key="mark" :x="scale.at(mark)" y="12" :text-anchor="mark === scale.marks[0] ? 'start' : mark === scale.marks.at(-1) ? 'end' : 'middle'">{{ figure(mark) }}</text></svg></th></tr>
      </thead>
      <tbody>
        <tr v-for="({ value, figures }, at) in table.groups" :key="at" :class="{ sum: value === null }">
          <th scope="row">{{ words(value) }}</th><td class="right">{{ count(figures.n) }}</td><td v-if="table.weighed" class="right">{{ weighed(figures.weighed ?? 0) }}</td>
          <td class="right">{{ even(figures.mean) }}</td><td class="right">{{ even(figures.sd) }}</td><td class="right">{{ figure(figures.median) }}</td>
          <td class="picture">
            <svg v-if="drawn" :width="WIDTH" height="24" aria-hidden="true">
              <path v-for="mark in scale.marks" :key="mark" :d="`M${scale.at(mark)} 0v24`" class="grid" />
              <g v-if="figures.n" :class="{ whole: value === null }">
                <path :d="`M${scale.at(figures.low!)} 12H${scale.at(figures.high!)}M${scale.at(figures.low!)} 8v8M${scale.at(figures.high!)} 8v8`" class="ends" />
                <rect :x="scale.at(figures.q1!)" y="4" :width="Math.max(1, scale.at(figures.q3!) - scale.at(figures.q1!))" height="16" />
                <path :d="`M${scale.at(figures.median!)} 4v16`" class="middle" />
                <path :d="`M${scale.at(figures.mean!)} 7l5 5l-5 5l-5-5z`" class="mean" />
              </g>
            </svg>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
  <p class="soft says" data-foot>box: middle half, thick line: median, ◇ mean, ends: 5 % and 95 %{{ table.equal_steps ? '. Codes are taken for equal steps.' : '' }}</p>
</template>

<style scoped>
.wide {
  overflow-x: auto;
}

table {
  border-collapse: collapse;
  font-size: 13px;
  width: 100%;
}

th,
td {
  padding: 4px 10px;
  height: 30px;
  font-weight: 400;
  text-align: left;
  border-bottom: 1px solid var(--line);
}

.right {
  text-align: right;
}

.sum > * {
  font-weight: 650;
  border-top: 1px solid var(--line2);
}

.picture {
  width: 360px;
  padding-block: 0;
}

svg {
  display: block;
}

text {
  font-size: 12px;
  fill: var(--soft);
}

.grid {
  stroke: var(--line);
}

.ends,
rect,
.middle,
.mean {
  stroke: var(--ink);
  stroke-width: 1.2;
  fill: none;
}

rect {
  fill: var(--leaf-pale);
}

.whole rect {
  fill: var(--straw-pale);
}

.middle {
  stroke-width: 3.5;
}

.mean {
  fill: var(--white);
}

.says {
  font-size: 12px;
  margin-top: 4px;
}
</style>
