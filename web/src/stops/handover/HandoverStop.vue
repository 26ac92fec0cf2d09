<script setup lang="ts">
import { computed, reactive, ref } from 'vue'

import { api, got, type Schema } from '@/api/client'
import EmptyStudy from '@/parts/EmptyStudy.vue'
import WorkBar from '@/parts/WorkBar.vue'
import { useAsked } from '@/study/asked'
import { useEditions } from '@/study/editions'
import { useWork } from '@/study/jobs'
import { attempt, say } from '@/study/notices'
import { bytes, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import HandoverOptions from './HandoverOptions.vue'

const study = useStudy()
const options = reactive<Schema['Options']>({ values: 'codes', missing_sign: null, guard: true, comments: false })
/** What is handed over: the study as it is now, or as it was in an edition. */
const { editions } = useEditions()
const edition = ref('now')
const { job, run, cancel } = useWork()
const opened = ref('data.csv')

const files = useAsked(
  'handover',
  () => [study.id, study.revision, study.variables.length, { ...options }, edition.value] as const,
  ([id, , variables, body, of]) =>
    variables ? got(api.POST('/api/studies/{study_id}/handover/preview', { params: { path: { study_id: id } }, body: { options: body, edition: of } })) : null,
)
const shown = computed(() => files.value?.find((file) => file.name === opened.value) ?? null)
const findings = computed(() => study.overview?.findings ?? 0)

async function make(): Promise<void> {
  const path = { study_id: study.id }
  const done = await attempt(() =>
    run(got(api.POST('/api/studies/{study_id}/handover', { params: { path }, body: { options, edition: edition.value } }))),
  )
  if (!done) return
  const link = document.createElement('a')
  link.href = `/api/jobs/${done.id}/file`
  link.download = String(done.result.name)
  link.click()
  say(`${String(done.result.name)} (${bytes(Number(done.result.size))}) was handed to the browser.`)
}
</script>

<template>
  <EmptyStudy v-if="!study.variables.length" />
  <div v-else class="stop-column">
    <div class="body split">
      <HandoverOptions :options="options">
        <label v-if="editions?.length" class="of">what leaves <select v-model="edition" data-test="handover-edition"><option value="now">the study as it is now</option><option v-for="each in editions" :key="each.id" :value="each.id">edition “{{ each.name }}”</option></select></label>
      </HandoverOptions>
      <section class="files">
        <div class="names" role="tablist" aria-label="Files in the archive">
          <button
            v-for="file in files ?? []" :key="file.name" role="tab" class="mono" :aria-selected="file.name === opened" :class="{ on: file.name === opened }"
            :data-test="`file-${file.name}`" @click="opened = file.name"
          >{{ file.name }}</button>
        </div>
        <div v-if="shown" class="panel look">
          <p v-for="note in shown.notes" :key="note" class="note">{{ note }}.</p>
          <pre class="mono scroll" data-wide tabindex="0" data-test="preview">{{ shown.head }}</pre>
        </div>
        <p class="soft">The first lines of each file.</p>
      </section>
    </div>
    <footer class="foot-bar">
      <WorkBar v-if="job" :job="job" @cancel="cancel" />
      <template v-else>
        <p>
          <template v-if="edition !== 'now'">Edition “{{ editions?.find((each) => each.id === edition)?.name }}”: data and codebook, as one zip.</template><template v-else>{{ counted(study.overview?.records ?? 0, 'record') }} × {{ counted(study.variables.length, 'variable') }} and their codebook, as one zip.&nbsp;</template>
          <router-link v-if="findings && edition === 'now'" class="beet" :to="{ name: 'checks', params: { study: study.id } }">{{ counted(findings, 'finding is', 'findings are') }} still open</router-link>
        </p>
        <span class="grow" />
        <v-btn variant="flat" color="primary" data-test="hand-over" @click="make">Hand over</v-btn>
      </template>
    </footer>
  </div>
</template>

<style scoped>
.body {
  flex: 1;
  min-height: 0;
  display: flex;
  gap: 28px;
  padding: 18px 28px;
}

.of {
  display: block;
  margin-top: 14px;
}

.of select {
  width: 100%;
  height: 32px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
}

.files {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  gap: 8px;
}

.names {
  display: flex;
  gap: 6px;
}

.names button {
  font-size: 12.5px;
  padding: 4px 10px;
  border-radius: 6px;
  color: var(--soft);
}

.names .on {
  background: var(--leaf-pale);
  color: var(--ink);
}

.look {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  padding: 12px;
}

.note {
  font-size: 12.5px;
  color: var(--straw-ink);
  background: var(--straw-pale);
  border-radius: 4px;
  padding: 3px 8px;
  margin-bottom: 8px;
}

pre {
  flex: 1;
  min-height: 0;
  font-size: 12.5px;
  line-height: 1.6;
  margin: 0;
}

</style>
