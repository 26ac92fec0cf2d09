<script setup lang="ts">
/** The next wave: what the file of it becomes by the steps of this study, and a study of its own made so. */
import { computed, onUnmounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { api, formOf, got, type Schema } from '@/api/client'
import { useKeys } from '@/frame/keys'
import { useAsked } from '@/study/asked'
import { attempt, say } from '@/study/notices'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import CodebooksCompared from './CodebooksCompared.vue'
import LostColumns from './LostColumns.vue'
import RoutineLines from './RoutineLines.vue'
import SidePanel from './SidePanel.vue'
import StepCounts from './StepCounts.vue'

const props = defineProps<{ file: File }>()
const emit = defineEmits<{ leave: [] }>()
const study = useStudy()
const router = useRouter()
const upload = ref('')
const renamed = ref<Record<string, string>>({})
/** The sheets of a workbook, and the one that somebody chose: else it is the one that the steps tell, or has their heads. */
const sheets = ref<string[]>([])
const sheet = ref('')
/** Whether what concerns single records of the first file is done, too. */
const single = ref(false)
const routine = ref<Schema['RoutineRequest'] | null>(null)
const title = ref('')
const making = ref(false)
let made = false
const discard = (): void => void (upload.value && !made && api.DELETE('/api/intake/{file_id}', { params: { path: { file_id: upload.value } } }))
watch(
  () => props.file,
  async (file) => {
    discard()
    upload.value = ''
    renamed.value = {}
    const seen = await attempt(() => got(api.POST('/api/intake', formOf(file))))
    upload.value = seen?.id ?? ''
    sheets.value = seen?.sheets ?? []
    sheet.value = ''
    title.value = file.name.replace(/\.[^.]+$/, '').replaceAll(/[-_]+/g, ' ')
  },
  { immediate: true },
)
onUnmounted(discard)
const body = computed(() => ({ file: upload.value, columns: renamed.value, sheet: sheet.value || null, routine: routine.value, single_records: single.value }))
const look = useAsked(
  'next-wave',
  () => [study.id, body.value, study.revision] as const,
  ([study_id, asked]) => (asked.file ? got(api.POST('/api/studies/{study_id}/next-wave/preview', { params: { path: { study_id } }, body: asked })) : null),
)
const lines = computed(() => look.value?.lines ?? [])
/** Steps that are done otherwise than here are what is to be looked at. */
const all = ref(false)
const troubled = computed(() => lines.value.filter((each) => each.came !== 'done'))
const strays = computed(() => Object.entries(look.value?.strays ?? {}))
const possible = computed(() => Boolean(look.value && !look.value.problem && look.value.records && title.value.trim()))
async function choose(event: Event): Promise<void> {
  const chosen = (event.target as HTMLInputElement).files?.[0]
  routine.value = chosen ? { name: chosen.name, text: await chosen.text() } : null
}
async function begin(): Promise<void> {
  if (!possible.value || making.value) return
  making.value = true
  const asked = { ...body.value, title: title.value.trim() }
  const entry = await attempt(() => got(api.POST('/api/studies/{study_id}/next-wave', { params: { path: { study_id: study.id } }, body: asked })))
  making.value = false
  if (!entry) return
  made = true
  say(`“${entry.title}” is a study of its own, with its diary.`)
  await router.push({ name: 'checks', params: { study: entry.id } })
}
useKeys({ 'keep amendment': () => void begin(), 'leave amendment': () => emit('leave') })
</script>

<template>
  <SidePanel :title="`The next wave: ${file.name}`" label="The next wave" data-test="wave-panel">
    <p class="soft">All that was done here is done on that file, and becomes a study of its own. <label class="act">{{ routine ? `by ${routine.name}` : 'by a routine instead' }}<input type="file" accept=".yaml,.yml,.txt" class="hidden" data-test="wave-routine" @change="choose" /></label></p>
    <label v-if="sheets.length > 1" class="named facts">sheet
      <select v-model="sheet" class="boxed" data-test="wave-sheet"><option value="">the one that is told, or has its heads</option><option v-for="each in sheets" :key="each" :value="each">{{ each }}</option></select>
    </label>
    <p v-if="!look" class="soft">looking …</p>
    <p v-else-if="look.problem" class="beet" data-test="wave-problem">{{ look.problem.what }} {{ look.problem.remedy }}</p>
    <template v-else>
      <StepCounts :came="lines.map((each) => each.came)" word="steps as here" data-test="wave-counts" />
      <p class="facts" data-test="wave-facts">{{ counted(look.records, 'record') }} × {{ counted(look.variables, 'variable') }}.</p>
      <LostColumns v-model="renamed" :gone="look.columns_gone" :fresh="look.columns_new" :likely="look.likely" />
      <p v-if="look.columns_new.length" class="facts" data-test="wave-new">{{ counted(look.columns_new.length, 'column') }} more: <span class="mono">{{ look.columns_new.join(', ') }}</span></p>
      <p v-for="[variable, entries] in strays" :key="variable" class="facts beet" data-test="wave-strays"><b class="mono">{{ variable }}</b> has strays that there were none of: <span class="mono">{{ entries.slice(0, 8).join(', ') }}{{ entries.length > 8 ? ' …' : '' }}</span></p>
      <p v-for="note in look.notes" :key="note" class="facts soft" data-test="wave-note">{{ note }}.</p>
      <label v-if="look.left_out || single" class="facts check"><input v-model="single" type="checkbox" data-test="wave-single" /> also what concerns single records of the first file, where an identifier tells them</label>
      <RoutineLines v-if="all || troubled.length" :lines="all ? lines : troubled" class="steps" />
      <p class="facts"><button class="act" data-test="wave-all" @click="all = !all">{{ all ? 'only the steps that are not as here' : `all ${lines.length} steps` }}</button></p>
      <CodebooksCompared v-if="look.codebooks" :compared="look.codebooks" />
    </template>
    <template #foot>
      <label class="grow named">study <input v-model="title" maxlength="200" data-test="wave-title" /></label>
      <v-btn variant="outlined" @click="emit('leave')">Leave it &nbsp;<kbd>Esc</kbd></v-btn>
      <v-btn variant="flat" color="primary" :disabled="!possible || making" data-test="begin-wave" @click="begin">{{ making ? 'Beginning …' : 'Begin the study' }} &nbsp;<kbd>Ctrl ↵</kbd></v-btn>
    </template>
  </SidePanel>
</template>

<style scoped>
.hidden {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}

.facts {
  font-size: 13px;
  margin: 0 0 4px;
}

.steps {
  margin-top: 12px;
}

.check {
  display: flex;
  align-items: center;
  gap: 6px;
}

.named {
  display: flex;
  align-items: center;
  gap: 8px;
  font-size: 13px;
  color: var(--soft);
}

.named input {
  flex: 1;
  min-width: 0;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 5px 10px;
  color: var(--ink);
}
</style>
