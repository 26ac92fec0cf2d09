<script setup lang="ts">
/** What a corrected version holds otherwise: records, columns, entries; what was typed over; what becomes of each step. */
import { computed } from 'vue'

import ChoiceRow from '@/parts/ChoiceRow.vue'
import ComparedStates from '@/stops/diary/ComparedStates.vue'
import LostColumns from '@/stops/diary/LostColumns.vue'
import StepCounts from '@/stops/diary/StepCounts.vue'
import { SAID } from '@/stops/diary/amending'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import type { CorrectionOf } from './correct'

const props = defineProps<{ correction: CorrectionOf }>()
const study = useStudy()
const { look, looking, sources, how } = props.correction
const STAY = { typed: 'what was typed stays', file: 'the file counts' }
const one = { typed: 'stays', file: 'the file' }
const stay = computed({ get: () => (how.typed_stay ? 'typed' : 'file'), set: (to) => void props.correction.set({ typed_stay: to === 'typed', otherwise: [] }) })
const value = (event: Event): string => (event.target as HTMLSelectElement).value
const name = (id: string): string => study.byId.get(id)?.name ?? 'a variable'
const listed = (told: string[], all: number): string => told.join(', ') + (all > told.length ? ' …' : '')
const changes = computed(() => Object.values(look.value?.changed ?? {}).reduce((sum, each) => sum + each, 0))
/** Entries are shown one by one where they are few. */
const few = computed(() => (look.value && changes.value <= 60 ? look.value.first : []))
const stuck = computed(() => look.value?.lines.filter((each) => each.came === 'in part' || each.came === 'not possible') ?? [])
const renamed = computed({ get: () => how.renamed, set: (to) => void props.correction.set({ renamed: to }) })
const told = computed(() => (how.identifier ? name(how.identifier) : 'record'))
</script>

<template>
  <section class="correct" aria-label="What the corrected version holds otherwise">
    <div class="by">
      <label>It corrects
        <select :value="how.source" class="boxed" data-test="correct-source" @change="correction.set({ source: value($event), renamed: {} })">
          <option v-for="each in sources" :key="each.id" :value="each.id">{{ each.name }}</option>
        </select>
      </label>
      <label>Records are told by
        <select :value="how.identifier ?? ''" class="boxed" data-test="correct-identifier" @change="correction.set({ identifier: value($event) || null })">
          <option value="">their order</option>
          <option v-for="each in study.variables" :key="each.id" :value="each.id">{{ each.name }}</option>
        </select>
      </label>
      <span v-if="looking" class="soft">looking …</span>
    </div>
    <p v-if="look?.problem" class="beet" data-test="correct-problem">{{ look.problem.what }} {{ look.problem.remedy }}</p>
    <template v-else-if="look">
      <div class="cards" data-test="correct-records">
        <div><b>{{ count(look.same) }}</b>{{ look.same === 1 ? 'record is' : 'records are' }} the same</div>
        <div :class="{ sun: look.new }" :title="listed(look.first_new, look.new)"><b>{{ count(look.new) }}</b>new<small class="mono">{{ listed(look.first_new, look.new) }}</small></div>
        <div :class="{ sun: look.gone }" :title="listed(look.first_gone, look.gone)"><b>{{ count(look.gone) }}</b>gone<small class="mono">{{ listed(look.first_gone, look.gone) }}</small></div>
        <div :class="{ sun: changes }"><b>{{ count(changes) }}</b>{{ changes === 1 ? 'entry is' : 'entries are' }} otherwise<small>{{ Object.entries(look.changed).map(([id, times]) => `${name(id)} ${times}`).slice(0, 6).join(', ') }}</small></div>
      </div>
      <p v-for="each in look.notes" :key="each" class="soft">{{ each }}.</p>
      <LostColumns v-model="renamed" :gone="look.columns_gone" :fresh="look.columns_new" :likely="look.likely" />
      <p v-if="look.columns_new.length">{{ counted(look.columns_new.length, 'column') }} more, which {{ look.columns_new.length === 1 ? 'becomes a variable' : 'become variables' }}: <span class="mono">{{ listed(look.columns_new.slice(0, 12), look.columns_new.length) }}</span></p>
      <template v-if="look.typed.length">
        <h4>{{ counted(look.typed.length, 'entry was', 'entries were') }} typed here, and {{ look.typed.length === 1 ? 'is' : 'are' }} otherwise in the new version
          <ChoiceRow v-model="stay" :choices="STAY" label="What counts" test="stay" /></h4>
        <table class="plain" data-test="correct-typed">
          <thead><tr><th class="mono">{{ told }}</th><th>variable</th><th>was in the file</th><th>was typed</th><th>is in the file now</th><th>counts</th></tr></thead>
          <tbody>
            <tr v-for="each in look.typed" :key="`${each.variable}/${each.now}`">
              <td class="mono">{{ each.told }}</td><td class="mono">{{ name(each.variable) }}</td><td class="soft mono">{{ each.was || 'blank' }}</td>
              <td class="mono" :class="{ struck: !each.stays }">{{ each.typed || 'blank' }}</td><td class="mono" :class="{ struck: each.stays }">{{ each.entry || 'blank' }}</td>
              <td><ChoiceRow :model-value="each.stays ? 'typed' : 'file'" :choices="one" :label="`What counts for ${name(each.variable)} of ${each.told}`" test="counts" @update:model-value="correction.decide(each.variable, each.now, $event === 'typed')" /></td>
            </tr>
          </tbody>
        </table>
      </template>
      <template v-if="few.length">
        <h4>Entries that are otherwise in the file</h4>
        <table class="plain" data-test="correct-changed">
          <thead><tr><th class="mono">{{ told }}</th><th>variable</th><th>was</th><th>is</th></tr></thead>
          <tbody><tr v-for="each in few" :key="`${each.variable}/${each.record}`"><td class="mono">{{ each.told }}</td><td class="mono">{{ name(each.variable) }}</td><td class="mono struck">{{ each.was || 'blank' }}</td><td class="mono">{{ each.entry || 'blank' }}</td></tr></tbody>
        </table>
      </template>
      <h4>What was done since, done again upon it</h4>
      <StepCounts :came="look.lines.map((each) => each.came)" word="as before" data-test="correct-counts" />
      <p v-for="each in stuck" :key="each.step_id ?? ''" class="stuck" :class="{ beet: each.came === 'not possible' }" data-test="correct-stuck">{{ each.was }} <small>{{ SAID[each.came] }}: {{ each.why.join('; ') }}</small></p>
      <ComparedStates v-if="look.compared" :compared="look.compared" />
    </template>
  </section>
</template>

<style scoped>
.correct {
  font-size: 13px;
  padding-bottom: 18px;
}

.by {
  display: flex;
  gap: 14px;
  align-items: center;
  padding: 10px 2px;
}

.cards {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 10px;
  margin-bottom: 12px;
}

.cards div {
  min-width: 0;
  background: var(--white);
  border: 1px solid var(--line2);
  border-radius: 7px;
  padding: 8px 14px;
  color: var(--soft);
}

.cards b {
  font-size: 22px;
  color: var(--ink);
  margin-right: 6px;
}

.cards small {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.cards .sun {
  border-color: var(--straw);
}

h4 {
  display: flex;
  gap: 14px;
  align-items: center;
  font-size: 14px;
  font-weight: 650;
  margin: 16px 0 6px;
}

.stuck {
  margin: 4px 0;
}

.stuck small {
  display: block;
  color: var(--soft);
}
</style>
