<script setup lang="ts">
/** Things that could be ticked: how often each was, of who answered and of all that was ticked. */
import { computed } from 'vue'

import type { Schema } from '@/api/client'
import { count, counted, percent, weighed } from '@/study/shown'

const { table } = defineProps<{ table: Schema['SeveralTable'] }>()
const most = computed(() => Math.max(1, ...table.things.map((thing) => thing.of_records ?? 0)))
const share = (value: number | null | undefined): string => (typeof value === 'number' ? percent(value) : '–')
</script>

<template>
  <div class="scroll wide" data-wide tabindex="0" aria-label="Table">
    <table>
      <thead class="soft"><tr><th>answer</th><th class="right">records</th><th v-if="table.weighed" class="right">weighted</th><th class="right">% of records</th><th class="right">% of answers</th><th class="picture"><span class="unseen">picture</span></th></tr></thead>
      <tbody>
        <tr v-for="thing in table.things" :key="thing.variable.id" :data-test="`item-${thing.variable.name}`">
          <th scope="row" :title="thing.variable.question">{{ thing.variable.label || thing.variable.name }}</th><td class="right">{{ count(thing.records) }}</td><td v-if="table.weighed" class="right">{{ weighed(thing.sum) }}</td>
          <td class="right">{{ share(thing.of_records) }}</td><td class="right">{{ share(thing.of_answers) }}</td>
          <td class="picture"><i v-if="thing.records" class="share-valid" :style="{ width: `max(3px, ${(100 * (thing.of_records ?? 0)) / most}%)` }" /></td>
        </tr>
        <tr class="sum"><th scope="row">all answers</th><td class="right">{{ count(table.things.reduce((all, thing) => all + thing.records, 0)) }}</td><td v-if="table.weighed" class="right">{{ weighed(table.answers) }}</td><td class="right">{{ share(table.sum ? (100 * table.answers) / table.sum : null) }}</td><td class="right">{{ table.answers ? '100.0' : '–' }}</td><td class="picture" /></tr>
      </tbody>
    </table>
  </div>
  <p class="foot" data-foot>{{ count(table.answered) }} of {{ counted(table.records, 'record') }} answered; {{ count(table.nothing) }} of them ticked nothing. <span v-if="table.answered < table.records" class="out">Left out: {{ counted(table.records - table.answered, 'record') }} without a valid answer to any of them.</span></p>
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
  height: 28px;
  padding: 4px 10px 4px 0;
  font-weight: 400;
  text-align: left;
  border-bottom: 1px solid var(--line);
}

.right {
  text-align: right;
}

.picture {
  width: 260px;
  padding-left: 14px;
}

.picture i {
  display: block;
  height: 12px;
}

.sum > * {
  font-weight: 650;
}

.foot {
  margin-top: 8px;
  font-size: 13px;
}

.out {
  color: var(--straw-ink);
}
</style>
