<script setup lang="ts">
/** How a file's columns stand beside the study's records: by what these are told, who is alone, and what is taken. */
import { computed } from 'vue'

import ChoiceRow from '@/parts/ChoiceRow.vue'
import FillBar from '@/parts/FillBar.vue'
import VirtualList from '@/parts/VirtualList.vue'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import type { Beside, Doubled } from './beside'
import type { Intake } from './intake'

const props = defineProps<{ intake: Intake; beside: Beside }>()
const study = useStudy()
const { report, more } = props.beside
const DOUBLED: Record<Doubled, string> = { first: 'the first counts', last: 'the last counts', neither: 'none of them' }
const value = (event: Event): string => (event.target as HTMLSelectElement).value
const listed = (names: string[], all: number): string => names.map((each) => each || '(blank)').join(', ') + (all > names.length ? ' …' : '')
const doubled = computed({ get: () => more.doubled, set: (to) => void props.beside.set({ doubled: to }) })
</script>

<template>
  <section v-if="report" class="beside" aria-label="How the file stands beside the records">
    <div class="by">
      <label>Records are told by
        <select :value="report.identifier ?? ''" class="boxed" data-test="beside-identifier" @change="beside.set({ identifier: value($event) || null, column: null })">
          <option value="" disabled>choose a variable</option>
          <option v-for="each in study.variables" :key="each.id" :value="each.id">{{ each.name }}</option>
        </select>
      </label>
      <label>which the file calls
        <select :value="report.column ?? ''" class="boxed" data-test="beside-column" @change="beside.set({ column: Number(value($event)) })">
          <option value="" disabled>choose a column</option>
          <option v-for="each in intake.columns.value" :key="each.column" :value="each.column">{{ each.head || `column ${each.column}` }}</option>
        </select>
      </label>
    </div>
    <div v-if="report.identifier && report.column" class="facts" data-test="beside-facts">
      <p :class="{ beet: !report.matched }"><b>{{ counted(report.matched, 'record has', 'records have') }} a row here.</b>&ensp;<span v-if="report.shared" class="soft">{{ counted(report.shared, 'row stands', 'rows stand') }} beside more than one record.</span></p>
      <p v-if="report.alone" :title="listed(report.unmatched, report.alone)">{{ counted(report.alone, 'record has', 'records have') }} none and {{ report.alone === 1 ? 'stays' : 'stay' }} blank: <span class="mono">{{ listed(report.unmatched, report.alone) }}</span></p>
      <p v-if="report.without" :title="listed(report.unknown, report.without)">{{ counted(report.without, 'row has', 'rows have') }} no record in the study and {{ report.without === 1 ? 'is' : 'are' }} left: <span class="mono">{{ listed(report.unknown, report.without) }}</span></p>
      <p v-if="report.doubled" class="double">{{ counted(report.doubled, 'row') }} with an identifier that stands more than once: <span class="mono">{{ listed(report.doubles, report.doubles.length) }}</span>&ensp;<ChoiceRow v-model="doubled" :choices="DOUBLED" label="Which of several rows counts" test="doubled" /></p>
    </div>
    <p v-else class="beet">Choose by what the records are told, and where the file has it.</p>
    <VirtualList :items="report.columns" :height="40" class="columns">
      <template #default="{ item }">
        <label class="row" :data-test="`beside-${item.head}`">
          <input type="checkbox" :checked="item.taken" @change="beside.take(item.column, !item.taken)" />
          <span class="mono name" :class="{ struck: !item.taken }" :title="item.head">{{ item.head || `column ${item.column}` }}</span>
          <span class="soft">{{ item.taken ? '→' : '' }}</span>
          <span class="mono">{{ item.taken ? item.name : '' }}</span>
          <span class="soft">{{ item.type }}<template v-if="item.known_as">; the study has {{ study.byId.get(item.known_as)?.name }} already</template></span>
          <FillBar :fill="item.fill" />
          <span class="soft">{{ count(item.fill.valid) }} valid</span>
        </label>
      </template>
    </VirtualList>
  </section>
</template>

<style scoped>
.beside {
  flex: 1 0 240px;
  min-height: 0;
  display: flex;
  flex-direction: column;
  font-size: 13px;
}

.by {
  display: flex;
  gap: 14px;
  padding: 10px 2px;
}

.facts {
  padding: 0 2px 10px;
  border-bottom: 1px solid var(--line);
}

.facts p {
  margin: 0 0 3px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.columns {
  flex: 1;
  min-height: 0;
}

.row {
  display: grid;
  grid-template-columns: 20px 170px 16px 170px minmax(200px, 1fr) 100px 100px;
  gap: 12px;
  align-items: center;
  height: 40px;
  border-bottom: 1px solid var(--line);
}

.row input {
  width: 15px;
  height: 15px;
  accent-color: var(--leaf);
}

.name {
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
