<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed } from 'vue'
import { useRouter } from 'vue-router'

import WorkBar from '@/parts/WorkBar.vue'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import ColumnRow from './ColumnRow.vue'
import FileDrop from './FileDrop.vue'
import FilePicture from './FilePicture.vue'
import FileSettings from './FileSettings.vue'
import { useIntake } from './intake'
import SourceNote from './SourceNote.vue'

const study = useStudy()
const router = useRouter()
const intake = useIntake()
const { file, proposed, job, handing, kept } = intake

const wanting = computed(() => kept.value.filter((each) => each.stray_count || each.suspects.length).length)
const strays = computed(() => kept.value.reduce((sum, each) => sum + each.stray_count, 0))

async function bringIn(): Promise<void> {
  if (!proposed.value || job.value) return
  if (await intake.bringIn(study.id)) {
    await study.refresh()
    await router.push({ name: 'codebook', params: { study: study.id } })
  }
}

useEventListener(window, 'keydown', (event) => {
  if (event.ctrlKey && event.key === 'Enter') void bringIn()
})
</script>

<template>
  <SourceNote v-if="study.variables.length" />
  <FileDrop v-else-if="!file" :busy="handing" @file="intake.handIn" />
  <div v-else class="stop-column">
    <div class="body scroll">
      <FileSettings :file="file" @change="intake.readAnotherWay" @another="intake.drop" />
      <FilePicture :file="file" />
      <template v-if="proposed">
        <div class="intro">
          <p>
            <b>{{ counted(proposed.columns.length, 'column') }} as tags.</b>
            <span class="soft"> Each is a proposal: change any part, before or after.</span>
          </p>
          <p data-test="wanting">
            {{ kept.length - wanting }} read whole · <span class="beet">{{ counted(wanting, 'wants', 'want') }} a look</span>
          </p>
        </div>
        <p v-for="note in proposed.notes" :key="note" class="note">{{ note }}.</p>
        <v-virtual-scroll :items="proposed.columns" item-height="52" class="columns">
          <template #default="{ item }">
            <ColumnRow :column="item" :choice="intake.choices[item.column]" :records="proposed.records" @choose="intake.choose(item.column, $event)" />
          </template>
        </v-virtual-scroll>
      </template>
    </div>
    <footer class="foot-bar">
      <WorkBar v-if="job" :job="job" @cancel="intake.cancel" />
      <template v-else-if="proposed">
        <p data-test="summary">
          {{ counted(proposed.records, 'record') }} × {{ counted(kept.length, 'variable') }}.
          <b>Every entry is kept as it stands</b><template v-if="strays">; {{ counted(strays, 'entry', 'entries') }} cannot be read yet and will wait in Checks</template>.
        </p>
        <span class="grow" />
        <v-btn variant="flat" color="primary" :disabled="!kept.length" data-test="bring-in" @click="bringIn">
          Bring in &nbsp;<kbd>Ctrl ↵</kbd>
        </v-btn>
      </template>
      <p v-else class="soft">The columns could not be read. Change how the file is read, or choose another file.</p>
    </footer>
  </div>
</template>

<style scoped>
.body {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  padding: 12px 20px 0;
}

.intro {
  display: flex;
  justify-content: space-between;
  padding: 12px 2px 6px;
  font-size: 13px;
}

.note {
  font-size: 12.5px;
  color: var(--straw-ink);
  background: var(--straw-pale);
  border-radius: 4px;
  padding: 3px 8px;
  margin-bottom: 4px;
}

.columns {
  flex: 1 0 190px;
  min-height: 190px;
}


footer kbd {
  background: transparent;
  color: inherit;
  border-color: currentColor;
}
</style>
