<script setup lang="ts">
/** How a file joins a study that has variables: matched, new and gone columns, and records that are known already. */
import { computed } from 'vue'

import ChoiceRow from '@/parts/ChoiceRow.vue'
import FillBar from '@/parts/FillBar.vue'
import VirtualList from '@/parts/VirtualList.vue'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import type { Intake } from './intake'
import { type Join, type Known, type Met, NEW, OUT } from './join'

const props = defineProps<{ intake: Intake; join: Join }>()
const study = useStudy()
const { report, more, asked } = props.join

const RULES: Record<Known, string> = { 'keep both': 'keep both', skip: 'skip the new ones', replace: 'replace by the new ones' }
const WORDS: Record<string, string> = { name: 'same name', 'first name': 'was called so when it was brought in', chosen: 'as you said', new: 'not in the study yet', near: 'nearly the same name:' }

const matched = computed(() => new Map(report.value?.columns.filter((each) => each.variable).map((each) => [each.variable, each.column])))
const left = computed(() =>
  Object.entries(more.matches).filter(([, each]) => each.leave_out).map(([column]) => props.intake.columns.value[Number(column) - 1]!),
)
const identifiers = computed(() => study.variables.filter((each) => matched.value.has(each.id)))
const known = computed({ get: () => more.known, set: (to) => void props.join.set({ known: to }) })
const gone = computed(() => report.value?.gone.map((id) => study.byId.get(id)?.name ?? '') ?? [])
const otherType = (each: Met): boolean => Boolean(each.variable && each.fill.stray)
const value = (event: Event): string => (event.target as HTMLSelectElement).value
</script>

<template>
  <section v-if="report" class="join" aria-label="How the file joins the study">
    <div class="intro">
      <b>{{ counted(report.columns.length, 'column') }} into {{ counted(study.variables.length, 'variable') }}.</b>
      <span v-if="asked.length" class="beet" data-test="asked">{{ counted(asked.length, 'name is', 'names are') }} nearly the same: say which variable it is.</span>
      <span v-if="gone.length" class="soft cut" :title="gone.join(', ')" data-test="gone">No column for {{ gone.slice(0, 6).join(', ') }}{{ gone.length > 6 ? ` and ${gone.length - 6} more` : '' }}: blank in the new records.</span>
    </div>
    <div class="known">
      <label>Records are told by
        <select :value="more.identifier ?? ''" class="boxed" data-test="identifier" @change="join.set({ identifier: value($event) || null })">
          <option value="">nothing: all are new</option>
          <option v-for="each in identifiers" :key="each.id" :value="each.id">{{ each.name }}</option>
        </select>
      </label>
      <span v-if="more.identifier" data-test="known">{{ counted(report.known, 'record is', 'records are') }} in the study already:</span>
      <ChoiceRow v-if="more.identifier" v-model="known" :choices="RULES" label="What becomes of known records" test="known" />
    </div>
    <VirtualList :items="report.columns" :height="44" class="columns">
      <template #default="{ item }">
        <div class="row" :class="{ near: item.how === 'near' }" :data-test="`met-${item.head}`">
          <span class="mono name" :title="item.head">{{ item.head || `column ${item.column}` }}</span>
          <span class="soft">→</span>
          <select :value="item.variable ?? NEW" class="boxed" :aria-label="`Variable for ${item.head}`" @change="join.match(item.column, value($event))">
            <option :value="NEW">a new variable</option>
            <option :value="OUT">left out</option>
            <option v-for="each in study.variables" :key="each.id" :value="each.id" :disabled="matched.has(each.id) && each.id !== item.variable">{{ each.name }}</option>
          </select>
          <span class="soft">{{ WORDS[item.how] }}
            <template v-if="item.how === 'near'">
              <button class="act" :data-test="`same-${item.head}`" @click="join.match(item.column, item.variable!)">yes, the same</button> ·
              <button class="act" :data-test="`new-${item.head}`" @click="join.match(item.column, NEW)">a new one</button>
            </template>
          </span>
          <FillBar :fill="item.fill" />
          <span class="cut" :class="{ beet: otherType(item) }" :title="otherType(item) ? 'Entries are kept as they stand; those that do not fit wait in Checks' : ''">
            <template v-if="otherType(item)">{{ count(item.fill.stray) }} would be strays{{ item.written_otherwise ? '; they are written another way' : '' }}{{ study.byId.get(item.variable!)?.type !== item.type ? `; it looks like ${item.type}, the variable is ${study.byId.get(item.variable!)?.type}` : '' }}</template>
          </span>
        </div>
      </template>
    </VirtualList>
    <p v-if="left.length" class="soft left">Left out:
      <button v-for="each in left" :key="each.column" class="act" @click="join.match(each.column, NEW)">{{ each.head }}</button>
    </p>
  </section>
</template>

<style scoped>
.join {
  flex: 1 0 240px;
  min-height: 0;
  display: flex;
  flex-direction: column;
  font-size: 13px;
}

.intro,
.known {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 10px 2px 4px;
}

.known {
  padding: 4px 2px 10px;
  border-bottom: 1px solid var(--line);
}

.columns {
  flex: 1;
  min-height: 0;
}

.row {
  display: grid;
  grid-template-columns: 150px 16px 180px minmax(310px, 1fr) 100px minmax(170px, 1fr);
  gap: 12px;
  align-items: center;
  height: 44px;
  border-bottom: 1px solid var(--line);
}

.near {
  background: var(--straw-pale);
}

.name {
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.left {
  padding: 4px 0;
}

.left .act {
  margin-right: 8px;
}
</style>
