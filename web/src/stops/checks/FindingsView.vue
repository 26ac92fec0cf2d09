<script setup lang="ts">
/** The coding map, the findings in an order, and the evidence of the one that is chosen. */
import { computed, ref, watch } from 'vue'

import type { Finding, Schema } from '@/api/client'
import { leadTo } from '@/frame/focus'
import { useKeys } from '@/frame/keys'
import ReasonDialog from '@/parts/ReasonDialog.vue'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import CodingMap from './CodingMap.vue'
import EvidencePane from './EvidencePane.vue'
import FindingRow from './FindingRow.vue'
import { keyOf, useRemedies } from './remedies'

const MOST = 200
/** The head over findings about whole records. */
const RECORDS = 'Records'
type Order = 'worst' | 'variable' | 'check'
const ORDERS: Record<Order, string> = { worst: 'worst first', variable: 'by variable', check: 'by check' }

const props = defineProps<{ report: Schema['CheckReport'] }>()
const study = useStudy()
const remedies = useRemedies()
const variable = ref<string | null>(null)
const family = ref<string | null>(null)
const order = ref<Order>('worst')
const chosenKey = ref('')
const accepting = ref<Finding | null>(null)
const asking = ref(false)

const met = computed(() =>
  props.report.findings.filter(
    (each) => (!variable.value || each.variable === variable.value || each.others.includes(variable.value)) && (!family.value || each.family === family.value),
  ),
)
/** Findings in groups, each under a head; all in one where the worst come first. */
const groups = computed(() => {
  const shown = met.value.slice(0, MOST)
  if (order.value === 'worst') return [{ head: '', findings: shown }]
  const found = new Map<string, Finding[]>()
  for (const each of shown) {
    const head = order.value === 'check' ? each.check : each.of_records ? RECORDS : each.variable
    found.set(head, [...(found.get(head) ?? []), each])
  }
  const places = new Map(study.variables.map((each, at) => [each.id, at]))
  const heads = [...found.keys()]
  if (order.value === 'variable') heads.sort((a, b) => (places.get(a) ?? -1) - (places.get(b) ?? -1))
  return heads.map((head) => ({ head: order.value === 'check' ? head : (study.byId.get(head)?.name ?? head), findings: found.get(head)! }))
})
/** Remedies that several findings of a group have in common. */
function common(findings: Finding[]): { word: string; times: number }[] {
  const times = new Map<string, number>()
  for (const each of findings) for (const { word } of each.remedies ?? []) times.set(word, (times.get(word) ?? 0) + 1)
  return [...times].filter(([, often]) => often > 1).map(([word, often]) => ({ word, times: often }))
}
const chosen = computed(() => met.value.find((each) => keyOf(each) === chosenKey.value) ?? met.value[0] ?? null)
const filtered = computed(() => [family.value, variable.value && study.byId.get(variable.value)?.name].filter(Boolean).join(' of '))

function pick(where: { variable: string | null; family: string | null }): void {
  variable.value = where.variable
  family.value = where.family
}
useKeys({ 'first finding': () => leadTo('choose-finding') })

async function accept(reason: string): Promise<void> {
  const finding = accepting.value
  if (!finding) return
  await study.take({ do: 'accept', format: 1, check: finding.check, variable: finding.variable, which: finding.which ?? '', entries: [], reason })
}
/** What was looked at and is found no more is let go. */
watch(() => props.report, ({ findings }) => {
  const there = new Set(findings.map(keyOf))
  if ([...remedies.looked.value.keys()].some((key) => !there.has(key))) remedies.looked.value = new Map([...remedies.looked.value].filter(([key]) => there.has(key)))
})
</script>

<template>
  <CodingMap :report="report" :variable="variable" :family="family" @pick="pick" />
  <div class="bar chips">
    <button v-for="(word, name) in ORDERS" :key="name" :class="{ on: order === name }" :aria-pressed="order === name" :data-test="`order-${name}`" @click="order = name">{{ word }}</button>
    <span v-if="filtered" class="only">Only {{ filtered }} <button class="act" @click="pick({ variable: null, family: null })">show all</button></span>
  </div>
  <div v-if="met.length" class="beside">
    <section data-home aria-label="Findings">
      <template v-for="group in groups" :key="group.head">
        <h3 v-if="group.head" :class="{ mono: order === 'variable' }">
          {{ group.head }} <span class="soft">{{ count(group.findings.length) }}</span>
          <button v-for="each in common(group.findings)" :key="each.word" class="act" data-test="remedy-all" @click="remedies.lookAll(group.findings, each.word)">{{ each.word }} in all {{ count(each.times) }}</button>
        </h3>
        <FindingRow
          v-for="finding in group.findings" :key="keyOf(finding)" :finding="finding" :chosen="finding === chosen" :remedies="remedies"
          @choose="chosenKey = keyOf(finding)" @accept="((accepting = finding), (asking = true))"
        />
      </template>
      <p v-if="met.length > MOST" class="only soft">{{ count(met.length - MOST) }} more; pick a place in the map to see fewer.</p>
    </section>
    <EvidencePane v-if="chosen" :key="keyOf(chosen)" :finding="chosen" />
  </div>
  <div v-else class="empty" data-test="no-findings">
    <h2>{{ filtered ? `Nothing found for ${filtered}` : 'Nothing is open' }}</h2>
    <p>{{ filtered ? '' : 'Every entry is accounted for, and every tag has what its level calls for.' }}</p>
    <v-btn v-if="filtered" @click="pick({ variable: null, family: null })">Show all</v-btn>
    <v-btn v-else :to="{ name: 'tables', params: { study: study.id } }">Look at the tables</v-btn>
  </div>
  <div v-if="remedies.looked.value.size > 1" class="tray panel" role="status" data-test="tray">
    <b>{{ counted(remedies.looked.value.size, 'remedy', 'remedies') }} chosen</b>
    <span data-test="tray-effect">{{ remedies.said.value }}</span>
    <span class="grow" />
    <v-btn @click="remedies.clear">Leave them</v-btn>
    <v-btn variant="flat" color="primary" :disabled="!remedies.possible.value" :loading="remedies.taking.value" data-test="do-all" @click="remedies.take">Do them all</v-btn>
  </div>
  <ReasonDialog
    v-model="asking" title="Accept this finding"
    hint="It is quiet for as long as it is as it is now, and the reason stays with the study. What the entries are does not change." @given="accept"
  />
</template>

<style scoped>
.bar {
  margin: 12px 0 8px;
}

.only {
  font-size: 13px;
  margin-left: 10px;
}

.beside {
  display: grid;
  grid-template-columns: minmax(0, 1.6fr) minmax(0, 1fr);
  gap: 16px;
}

@media (max-width: 900px) {
  .beside {
    grid-template-columns: minmax(0, 1fr);
  }
}

h3 {
  font-size: 13.5px;
  font-weight: 650;
  padding: 12px 14px 4px;
}

h3 .act {
  margin-left: 12px;
  font-weight: 400;
}

.tray {
  position: sticky;
  bottom: -16px;
  display: flex;
  align-items: center;
  gap: 14px;
  margin-top: 12px;
  padding: 10px 16px;
  border-color: var(--leaf);
  font-size: 13.5px;
}
</style>
