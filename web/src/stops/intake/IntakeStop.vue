<script setup lang="ts">
import { computed } from 'vue'
import { useRouter } from 'vue-router'

import { useKeys } from '@/frame/keys'
import WorkBar from '@/parts/WorkBar.vue'
import { useSheets } from '@/sheet/sheets'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import ColumnList from './ColumnList.vue'
import ColumnPanel from './ColumnPanel.vue'
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
const { file, proposed, job, handing, unread, kept, selected, offer, keepOffer } = intake

const joins = computed(() => study.variables.length > 0)
const present = computed(() => {
  const records = study.overview?.records ?? 0
  return records ? `${counted(records, 'record is', 'records are')} in this study` : `${counted(study.variables.length, 'variable')}, no record yet`
})
const strays = computed(() => kept.value.reduce((sum, each) => sum + each.fill.stray, 0))
const ready = computed(() => Boolean(proposed.value && (joins.value ? join.report.value && !join.asked.value.length : kept.value.length)))

async function bringIn(): Promise<void> {
  if (!ready.value || job.value) return
  const to = joins.value ? 'records' : 'codebook'
  const [codebook, name] = [keepOffer.value ? offer.value : null, file.value?.name]
  if (await (joins.value ? join.bringIn() : intake.bringIn(study.id))) {
    await study.refresh()
    if (codebook) await sheets.keep(`${name}, ${codebook.sheet}`, codebook.text)
    await router.push({ name: to, params: { study: study.id } })
  }
}

useKeys({ 'bring in': () => void bringIn() })
</script>

<template>
  <div v-if="!file && joins" class="joined scroll">
    <h2 class="title" data-test="has-data">{{ present }}</h2>
    <SourceList />
    <FileDrop :busy="handing" compact :title="study.overview?.records ? 'Bring in more records' : 'Bring in records for these variables'" @file="intake.handIn" />
    <p class="soft">Columns are matched to variables by name; you see what is new, gone or known before anything is added.</p>
  </div>
  <StartPanel v-else-if="!file" :busy="handing" @file="intake.handIn" />
  <div v-else class="stop-column">
    <div class="across">
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
          <JoinPanel v-if="joins" :intake="intake" :join="join" />
          <ColumnList v-else :intake="intake" />
        </template>
      </div>
      <ColumnPanel v-if="selected.size && proposed" :intake="intake" />
    </div>
    <footer class="foot-bar">
      <WorkBar v-if="job" :job="job" @cancel="intake.cancel" />
      <template v-else-if="proposed">
        <p v-if="joins && join.report.value" data-test="summary">
          {{ counted(join.report.value.added, 'record') }} added<template v-if="join.report.value.replaced">, {{ counted(join.report.value.replaced, 'record') }} replaced</template><template v-if="join.report.value.skipped">, {{ counted(join.report.value.skipped, 'record') }} skipped</template><template v-if="join.fresh.value.length">; {{ counted(join.fresh.value.length, 'new variable') }}</template>.
        </p>
        <p v-else-if="!joins" data-test="summary">
          {{ counted(proposed.records, 'record') }} × {{ counted(kept.length, 'variable') }}.
          <b>Every entry is kept as it stands</b><template v-if="strays">; {{ counted(strays, 'entry', 'entries') }} cannot be read yet and will wait in Checks</template>.
        </p>
        <span class="grow" />
        <v-btn variant="flat" color="primary" :disabled="!ready" data-test="bring-in" @click="bringIn">
          {{ joins ? 'Add the records' : 'Bring in' }} &nbsp;<kbd>Ctrl ↵</kbd>
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
