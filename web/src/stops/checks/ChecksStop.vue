<script setup lang="ts">
import { computed, ref } from 'vue'

import { api, type Finding, got } from '@/api/client'
import EmptyStudy from '@/parts/EmptyStudy.vue'
import ReasonDialog from '@/parts/ReasonDialog.vue'
import { useAsked } from '@/study/asked'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import CodingMap from './CodingMap.vue'
import FindingRow from './FindingRow.vue'

const study = useStudy()
const report = useAsked(
  'checks',
  () => [study.id, study.checked, study.stamp({ tags: 'all', entries: 'all', shelves: ['accepted'], order: true, records: true })] as const,
  ([id]) => got(api.GET('/api/studies/{study_id}/checks', { params: { path: { study_id: id } } })),
)
const variable = ref<string | null>(null)
const family = ref<string | null>(null)
const chosen = ref<Finding | null>(null)
const asking = ref(false)

const notes = computed(() => (report.value?.findings ?? []).filter((each) => each.severity === 'note').length)
const shown = computed(() =>
  (report.value?.findings ?? []).filter(
    (each) => (!variable.value || each.variable === variable.value || each.others.includes(variable.value)) && (!family.value || each.family === family.value),
  ),
)
const filtered = computed(() => [family.value, variable.value && study.byId.get(variable.value)?.name].filter(Boolean).join(' of '))

function pick(where: { variable: string | null; family: string | null }): void {
  variable.value = where.variable
  family.value = where.family
}

async function accept(reason: string): Promise<void> {
  const finding = chosen.value
  if (!finding) return
  await study.take({ do: 'accept', format: 1, check: finding.check, variable: finding.variable, entries: [], reason })
}
</script>

<template>
  <EmptyStudy v-if="!study.variables.length" />
  <div v-else-if="report" class="stop scroll">
    <header>
      <h2 class="title" data-test="open-findings">{{ counted(report.findings.length - notes, 'finding') }} open</h2>
      <span v-if="notes" class="soft"><b>{{ count(notes) }}</b> worth knowing</span>
      <span class="soft"><b>{{ count(report.accepted) }}</b> {{ report.accepted === 1 ? 'entry' : 'entries' }} accepted</span>
      <span class="soft"><b>{{ count(report.ready) }}</b> of {{ counted(report.variables, 'variable') }} ready</span>
    </header>
    <CodingMap :report="report" :variable="variable" :family="family" @pick="pick" />
    <section v-if="shown.length" class="panel findings" aria-label="Findings">
      <div v-if="filtered" class="only">Only {{ filtered }} <button class="act" @click="pick({ variable: null, family: null })">show all</button></div>
      <FindingRow
        v-for="finding in shown.slice(0, 200)" :key="`${finding.check} ${finding.variable} ${finding.message}`" :finding="finding"
        @accept="((chosen = finding), (asking = true))"
      />
      <p v-if="shown.length > 200" class="only soft">{{ count(shown.length - 200) }} more; pick a place in the map to see fewer.</p>
    </section>
    <div v-else class="empty" data-test="no-findings">
      <h2>{{ filtered ? `Nothing found for ${filtered}` : 'Nothing is open' }}</h2>
      <p>{{ filtered ? '' : 'Every entry is accounted for, and every tag has what its level calls for.' }}</p>
      <v-btn v-if="filtered" @click="pick({ variable: null, family: null })">Show all</v-btn>
      <v-btn v-else :to="{ name: 'tables', params: { study: study.id } }">Look at the tables</v-btn>
    </div>
    <ReasonDialog
      v-model="asking" title="Accept this finding"
      hint="It is quiet from then on, and the reason stays with the study. What the entries are does not change." @given="accept"
    />
  </div>
</template>

<style scoped>
.stop {
  height: 100%;
  padding: 14px 20px 24px;
}

header {
  display: flex;
  gap: 24px;
  align-items: baseline;
  margin-bottom: 14px;
}

header b {
  color: var(--ink);
}

.findings {
  margin-top: 14px;
}

.only {
  padding: 10px 16px;
  font-size: 13px;
  border-bottom: 1px solid var(--line);
}

.only .act {
  margin-left: 8px;
}
</style>
