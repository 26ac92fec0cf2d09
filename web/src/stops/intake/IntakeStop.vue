<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'

import { useKeys } from '@/frame/keys'
import ChoiceRow from '@/parts/ChoiceRow.vue'
import WorkBar from '@/parts/WorkBar.vue'
import { useSheets } from '@/sheet/sheets'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { useBeside } from './beside'
import BesidePanel from './BesidePanel.vue'
import ColumnList from './ColumnList.vue'
import ColumnPanel from './ColumnPanel.vue'
import { useCorrection } from './correct'
import CorrectPanel from './CorrectPanel.vue'
import { isData, taken } from './dropped'
import FileDrop from './FileDrop.vue'
import FilePicture from './FilePicture.vue'
import FileSettings from './FileSettings.vue'
import FixedPicture from './FixedPicture.vue'
import { useIntake } from './intake'
import { useJoin } from './join'
import JoinPanel from './JoinPanel.vue'
import SourceList from './SourceList.vue'
import StartPanel from './StartPanel.vue'

const study = useStudy()
const sheets = useSheets()
const router = useRouter()
const intake = useIntake()
const join = useJoin(intake)
const beside = useBeside(intake)
const correction = useCorrection(intake)
const { file, proposed, job, handing, unread, kept, selected, offer, keepOffer } = intake

/** A document with which the study begins. */
const document = shallowRef<File | null>(null)
const joins = computed(() => study.variables.length > 0)
const present = computed(() => {
  const records = study.overview?.records ?? 0
  return records ? `${counted(records, 'record is', 'records are')} in this study` : `${counted(study.variables.length, 'variable')}, no record yet`
})
const strays = computed(() => kept.value.reduce((sum, each) => sum + each.fill.stray, 0))

/** What the file is to a study that has variables: as it seems to be, until somebody says otherwise. */
const PURPOSES = { 'more records': 'other records', 'more variables': 'more variables of the same records', corrected: 'a corrected version' }
const purpose = ref<keyof typeof PURPOSES>('more records')
const empty = computed(() => !study.overview?.records)
watch(proposed, () => (purpose.value = 'more records'))
watch(join.report, (now, before) => now && !before && !empty.value && (purpose.value = now.likely))
watch([purpose, proposed], () => {
  if (!proposed.value || !joins.value) return
  if (purpose.value === 'more variables') void beside.begin()
  if (purpose.value === 'corrected') void correction.begin(join.report.value?.source ?? null)
})
const recordsReady = computed(() => Boolean(join.report.value && !join.asked.value.length))
const WAYS = {
  'more records': { ready: recordsReady, take: join.bringIn, to: 'records', does: 'Add the records' },
  'more variables': { ready: beside.ready, take: beside.bringIn, to: 'codebook', does: 'Put them beside' },
  corrected: { ready: correction.ready, take: correction.take, to: 'diary', does: 'Take the corrected file' },
}
const way = computed(() => WAYS[purpose.value])
const ready = computed(() => Boolean(proposed.value && (joins.value ? way.value.ready.value : kept.value.length)))

async function bringIn(): Promise<void> {
  if (!ready.value || job.value) return
  const to = joins.value ? way.value.to : 'codebook'
  const [codebook, name] = [keepOffer.value ? offer.value : null, file.value?.name]
  if (await (joins.value ? way.value.take() : intake.bringIn(study.id))) {
    await study.refresh()
    if (codebook) await sheets.keep(`${name}, ${codebook.sheet}`, codebook.text)
    await router.push({ name: to, params: { study: study.id } })
  }
}

onMounted(() => {
  const dropped = taken()
  if (dropped && isData(dropped)) void intake.handIn(dropped)
  else if (dropped) document.value = dropped
})

useKeys({ 'bring in': () => void bringIn() })
</script>

<template>
  <div v-if="!file && joins" class="joined scroll">
    <h2 class="title" data-test="has-data">{{ present }}</h2>
    <SourceList />
    <FileDrop :busy="handing" compact :title="study.overview?.records ? 'Bring in another file' : 'Bring in records for these variables'" @file="intake.handIn" />
    <p class="soft">Other records, more variables of the same ones, or a corrected version of a file: you see what is new, gone or known before anything changes.</p>
  </div>
  <StartPanel v-else-if="!file" :busy="handing" :document="document" @file="intake.handIn" />
  <div v-else class="stop-column">
    <div class="across split">
      <div class="body scroll">
        <FileSettings :file="file" @change="intake.readAnotherWay" @kind="intake.takeFor" @another="intake.drop" />
        <FixedPicture v-if="file.settings.kind === 'fixed'" :file="file" :take-fields="intake.takeFields" @change="intake.readAnotherWay" />
        <FilePicture v-else :file="file" :foot="proposed?.foot ?? []" :below="proposed?.settings.rows_below ?? 0" @change="intake.readAnotherWay" />
        <p v-if="file.problem" class="problem" data-test="problem">{{ file.problem }}</p>
        <label v-if="offer" class="offer" data-test="offer">
          <input v-model="keepOffer" type="checkbox" />
          <span>The sheet “{{ offer.sheet }}” is a codebook: it describes {{ offer.described }} of these {{ counted(offer.columns, 'column') }}. Keep it beside the study, to compare it with the data.</span>
        </label>
        <template v-if="proposed">
          <p v-if="proposed.notes.length" class="note" data-test="notes">{{ proposed.notes.join(' · ') }}.</p>
          <p v-if="joins && !empty && join.report.value" class="purpose">This file holds <ChoiceRow v-model="purpose" :choices="PURPOSES" label="What the file holds" test="purpose" /></p>
          <CorrectPanel v-if="joins && purpose === 'corrected'" :correction="correction" />
          <BesidePanel v-else-if="joins && purpose === 'more variables'" :intake="intake" :beside="beside" />
          <JoinPanel v-else-if="joins" :intake="intake" :join="join" />
          <ColumnList v-else :intake="intake" />
        </template>
      </div>
      <ColumnPanel v-if="selected.size && proposed" :intake="intake" />
    </div>
    <footer class="foot-bar">
      <WorkBar v-if="job" :job="job" @cancel="intake.cancel" />
      <template v-else-if="proposed">
        <p v-if="joins && purpose === 'more variables'" data-test="summary">{{ counted(beside.taken.value.length, 'variable') }} beside {{ counted(beside.report.value?.matched ?? 0, 'record') }}. Nothing that is there changes.</p>
        <p v-else-if="joins && purpose === 'corrected'" class="soft" data-test="summary"><b v-if="correction.stuck.value" class="beet">{{ counted(correction.stuck.value, 'step') }} cannot be done any more and {{ correction.stuck.value === 1 ? 'is' : 'are' }} left out.</b> The way it was stays in the diary; undo leads back.</p>
        <p v-else-if="joins && join.report.value" data-test="summary">
          {{ counted(join.report.value.added, 'record') }} added<template v-if="join.report.value.replaced">, {{ counted(join.report.value.replaced, 'record') }} replaced</template><template v-if="join.report.value.skipped">, {{ counted(join.report.value.skipped, 'record') }} skipped</template><template v-if="join.fresh.value.length">; {{ counted(join.fresh.value.length, 'new variable') }}</template>.
        </p>
        <p v-else-if="!joins" data-test="summary">
          {{ counted(proposed.records, 'record') }} × {{ counted(kept.length, 'variable') }}.
          <b>Every entry is kept as it stands</b><template v-if="strays">; {{ counted(strays, 'entry', 'entries') }} cannot be read yet and will wait in Checks</template>.
        </p>
        <span class="grow" />
        <v-btn variant="flat" color="primary" :disabled="!ready" data-test="bring-in" @click="bringIn">
          {{ joins ? way.does : 'Bring in' }} &nbsp;<kbd>Ctrl ↵</kbd>
        </v-btn>
      </template>
      <p v-else-if="unread" class="soft" data-test="unread">The columns could not be read. Change how the file is read, or choose another file.</p>
    </footer>
  </div>
</template>

<style scoped>
.joined {
  height: 100%;
  padding: 20px 24px;
  display: flex;
  flex-direction: column;
  gap: 18px;
}

.across {
  flex: 1;
  min-height: 0;
  display: flex;
}

.body {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  padding: 12px 20px 0;
}

.purpose {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 10px 2px 0;
}

.note,
.problem {
  font-size: 12.5px;
  color: var(--straw-ink);
  background: var(--straw-pale);
  border-radius: 4px;
  padding: 3px 8px;
  margin-top: 4px;
}

.offer {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-top: 8px;
  padding: 6px 10px;
  border: 1px solid var(--leaf);
  border-radius: 6px;
  background: var(--leaf-pale);
  font-size: 13px;
}

.offer input {
  width: 15px;
  height: 15px;
  accent-color: var(--leaf);
}

.problem {
  color: var(--beet);
  background: var(--beet-pale);
}

footer kbd {
  background: transparent;
  color: inherit;
  border-color: currentColor;
}
</style>
