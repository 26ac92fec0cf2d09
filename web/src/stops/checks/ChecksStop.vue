<script setup lang="ts">
/** What the checks find; who misses what; the rules that records keep to; and how it is all checked. */
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'

import { api, got } from '@/api/client'
import EmptyStudy from '@/parts/EmptyStudy.vue'
import { useAsked } from '@/study/asked'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import CheckSettings from './CheckSettings.vue'
import FindingsView from './FindingsView.vue'
import GapMap from './GapMap.vue'
import RulesView from './RulesView.vue'

const study = useStudy()
const route = useRoute()
const VIEWS = { findings: 'Findings', gaps: 'Gaps', rules: 'Rules' } as const
const view = computed(() => (route.query.show === 'gaps' || route.query.show === 'rules' ? route.query.show : 'findings'))
const report = useAsked(
  'checks',
  () => [study.id, study.checked, study.stamp({ tags: 'all', entries: 'all', shelves: ['accepted', 'rule', 'check'], order: true, records: true })] as const,
  ([id]) => got(api.GET('/api/studies/{study_id}/checks', { params: { path: { study_id: id } } })),
)
const setting = ref(false)
/** While records are looked at beside the work, it is asked now and then how far that is. */
const asked = ref(0)
const working = useAsked(
  'checks working',
  () => [study.id, study.checked, study.revision, asked.value] as const,
  ([id]) => got(api.GET('/api/studies/{study_id}/checks-working', { params: { path: { study_id: id } } })),
)
useIntervalFn(() => working.value?.done !== null && asked.value++, 1000)
const said = computed(() => {
  const done = working.value?.done
  if (done === null || done === undefined) return ''
  const since = report.value?.across === null || report.value?.across === undefined ? 'records are looked at for the first time' : 'records are looked at anew; what is told of them is as it was before'
  return `${since}, ${Math.round(100 * done)} % done`
})
const open = computed(() => (report.value?.findings ?? []).filter((each) => each.severity !== 'note').length)
const notes = computed(() => (report.value?.findings.length ?? 0) - open.value)
const settled = computed(() => (report.value?.readiness ?? []).filter((each) => each !== 'open').length)
</script>

<template>
  <EmptyStudy v-if="!study.variables.length" />
  <div v-else-if="report" class="stop scroll">
    <header>
      <h2 class="title" data-test="open-findings">{{ counted(open, 'finding') }} open</h2>
      <span v-if="notes" class="soft"><b>{{ count(notes) }}</b> worth knowing</span>
      <span class="soft" data-test="accepted-count"><b>{{ count(report.accepted) }}</b> accepted</span>
      <span class="soft" data-test="ready-count"><b>{{ count(settled) }}</b> of {{ counted(report.readiness.length, 'variable') }} ready</span>
      <span v-if="said" class="soft" role="status" data-test="working">{{ said }}</span>
      <span class="grow" />
      <nav class="switch" aria-label="What is shown">
        <router-link v-for="(word, name) in VIEWS" :key="name" :to="{ query: name === 'findings' ? {} : { show: name } }" :class="{ on: view === name }" :aria-current="view === name ? 'page' : undefined" :data-test="`show-${name}`">{{ word }}</router-link>
      </nav>
      <v-btn data-test="open-settings" title="Turn checks off, or set their thresholds" @click="setting = true">{{ report.set ? `Thresholds: ${report.set} set` : 'Thresholds…' }}</v-btn>
      <v-menu>
        <template #activator="{ props: menu }"><v-btn v-bind="menu" data-test="open-report">Report ▾</v-btn></template>
        <div class="panel menu">
          <a :href="`/api/studies/${study.id}/check-report`" data-test="report-page">As a page to print</a>
          <a :href="`/api/studies/${study.id}/check-report?form=json`">As JSON</a>
        </div>
      </v-menu>
    </header>
    <FindingsView v-if="view === 'findings'" :report="report" />
    <GapMap v-else-if="view === 'gaps'" />
    <RulesView v-else />
    <CheckSettings v-model="setting" />
  </div>
</template>

<style scoped>
.stop {
  height: 100%;
  padding: 14px 20px 24px;
}

header {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 20px;
  align-items: center;
  margin-bottom: 14px;
}

header b {
  color: var(--ink);
}

.switch {
  display: inline-flex;
  border: 1px solid var(--edge);
  border-radius: 6px;
  overflow: hidden;
}

.switch a {
  padding: 5px 12px;
  font-size: 12.5px;
  color: var(--soft);
  background: var(--white);
  text-decoration: none;
}

.switch a.on {
  background: var(--ink);
  color: var(--paper);
}

.switch a:focus-visible {
  outline-offset: -2px;
}

.menu {
  display: flex;
  flex-direction: column;
  padding: 6px 0;
}

.menu a {
  line-height: 32px;
  padding: 0 14px;
  font-size: 13px;
  color: inherit;
  text-decoration: none;
}

.menu a:hover,
.menu a:focus-visible {
  background: var(--leaf-pale);
}
</style>
