<script setup lang="ts">
import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed, ref, shallowRef, watch } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { attempt, complainOf, say } from '@/study/notices'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import AmendPanel from './AmendPanel.vue'
import { useAmending } from './amending'
import ComparePanel from './ComparePanel.vue'
import DiaryFilter from './DiaryFilter.vue'
import DiaryRun from './DiaryRun.vue'
import { useEditions } from '@/study/editions'
import EditionRow from './EditionRow.vue'
import type { Wanted } from './filter'
import NamePanel from './NamePanel.vue'
import NextWavePanel from './NextWavePanel.vue'
import RoutinePanel from './RoutinePanel.vue'

const study = useStudy()
const wanted = ref<Wanted>({ variable: '', kind: '', by: '', day: '' })
/** What is asked for; a name that no variable bears is looked for as it is, and found nowhere. */
const asked = computed(() => {
  const { variable, ...rest } = wanted.value
  const id = study.variables.find((each) => each.name.toLowerCase() === variable.toLowerCase())?.id ?? variable
  return Object.fromEntries(Object.entries({ ...rest, variable: id }).filter(([, value]) => value))
})
const { data, error, refetch, fetchNextPage, hasNextPage, isFetchingNextPage } = useInfiniteQuery({
  queryKey: computed(() => ['diary', study.id, study.revision, asked.value]),
  queryFn: ({ pageParam }) =>
    got(api.GET('/api/studies/{study_id}/diary', { params: { path: { study_id: study.id }, query: { ...asked.value, before: pageParam } } })),
  initialPageParam: null as number | null,
  getNextPageParam: (page: Schema['DiaryPage']) => page.more,
  placeholderData: (before) => before,
})
watch(error, (found) => found && complainOf(found, () => void refetch()))
const pages = computed(() => data.value?.pages ?? [])
const met = (of: 'do' | 'by'): string[] => [...new Set(runs.value.flatMap((run) => run.lines.map((line) => line[of])))]
const runs = computed(() => pages.value.flatMap((page) => page.runs))
const amending = useAmending()
const { edits } = amending
const { editions, again } = useEditions()
const named = (run: Schema['DiaryRun']): Schema['Edition'][] => (editions.value ?? []).filter((each) => run.lines.some((line) => line.state === each.state))

/** What stands beside the diary. */
const beside = ref<'name' | 'compare' | 'routine' | 'wave' | null>(null)
const wave = shallowRef<File | null>(null)
const compared = ref('')
const routine = ref({ name: '', text: '' })
const close = (): void => void (beside.value = null)
watch(() => edits.value.length, (number) => number && close())
function begin(what: 'name' | 'compare'): void {
  amending.leave()
  beside.value = what
  if (what === 'compare') compared.value = editions.value?.[0]?.id ?? 'now'
}
async function name(called: string, note: string): Promise<void> {
  const path = { study_id: study.id }
  const made = await attempt(() => got(api.POST('/api/studies/{study_id}/editions', { params: { path }, body: { name: called, note } })))
  if (!made) return
  again()
  say(`The study as it is now is the edition “${made.name}”.`)
  close()
}
async function forget(edition: Schema['Edition']): Promise<void> {
  const path = { study_id: study.id, edition_id: edition.id }
  await attempt(() => got(api.DELETE('/api/studies/{study_id}/editions/{edition_id}', { params: { path } })))
  again()
  say(`“${edition.name}” is no edition any more; the state stays in the diary.`)
}
function follow(event: Event): void {
  const input = event.target as HTMLInputElement
  if (!input.files?.[0]) return
  amending.leave()
  wave.value = input.files[0]
  input.value = ''
  beside.value = 'wave'
}
async function choose(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  amending.leave()
  routine.value = { name: file.name, text: await file.text() }
  input.value = ''
  beside.value = 'routine'
}
/** Steps that a routine is to hold, while they are being chosen. */
const picked = ref<ReadonlySet<string> | null>(null)
function pick(steps: string[], taken: boolean): void {
  const now = new Set(picked.value)
  for (const step of steps) if (taken) now.add(step); else now.delete(step)
  picked.value = now
}
const routineOf = computed(() => `/api/studies/${study.id}/routine?${[...(picked.value ?? [])].map((step) => `step=${step}`).join('&')}`)
const left = computed(() => runs.value.flatMap((run) => run.lines).filter((line) => !line.current).length)
</script>

<template>
  <div v-if="pages[0]" class="stop split">
   <div class="story scroll" tabindex="-1">
    <header>
      <h2 class="title">Diary</h2>
      <span class="soft">{{ counted(pages[0].count, 'step') }}<template v-if="left">, {{ left }} of them not in the study as it is now</template><template v-if="editions?.length"> · {{ counted(editions.length, 'edition') }}</template></span>
      <span class="grow" />
      <span v-if="!edits.length && !study.overview?.edition" class="tools">
        <button class="act" data-test="name-edition" @click="begin('name')">name an edition</button>
        <button v-if="editions?.length" class="act" data-test="compare-editions" @click="begin('compare')">compare editions</button>
        <a class="act" :href="`/api/studies/${study.id}/routine`" download data-test="save-routine">save as routine</a>
        <button class="act" data-test="pick-steps" @click="picked = picked ? null : new Set()">{{ picked ? 'choose no steps' : 'choose its steps' }}</button>
        <label class="act">run a routine<input type="file" accept=".yaml,.yml,.txt" class="hidden" data-test="run-routine" @change="choose" /></label>
        <label class="act" title="The same steps on the file of the next wave, as a study of its own">begin the next wave<input type="file" class="hidden" data-test="next-wave" @change="follow" /></label>
        <a class="act" :href="`/api/studies/${study.id}/story`" download data-test="story">the story as a page</a>
      </span>
    </header>
    <DiaryFilter v-if="pages[0].count && !edits.length" v-model="wanted" :kinds="met('do')" :people="met('by')" />
    <p v-if="picked" class="picking" data-test="picking">Tick the steps that the routine is to hold: {{ counted(picked.size, 'step') }} so far.
      <a v-if="picked.size" class="act" :href="routineOf" download data-test="save-picked">save them as a routine</a></p>
    <p v-else-if="runs.length && !edits.length && !beside && !study.overview?.edition" class="soft hint">Point at a step to amend it, to leave it out, or to put one in before it: all that came after is done again.</p>
    <ol v-if="runs.length">
      <template v-for="run in runs" :key="run.lines.at(-1)!.step_id">
        <EditionRow v-for="each in named(run)" v-show="!edits.length" :key="each.id" :edition="each" @compare="((compared = each.id), (beside = 'compare'))" @forget="forget(each)" />
        <DiaryRun :run="run" :amending="amending" :picked="picked" @pick="pick" />
      </template>
    </ol>
    <p v-else-if="pages[0].count" class="soft" data-test="diary-none">No step is like that.</p>
    <div v-else class="empty">
      <h2>No step yet</h2>
      <p>Everything that changes the study is told here in a sentence with its counts. Begin at the Intake.</p>
      <v-btn variant="flat" color="primary" :to="{ name: 'intake', params: { study: study.id } }">Go to the Intake</v-btn>
    </div>
    <button v-if="hasNextPage" class="act" :disabled="isFetchingNextPage" data-test="earlier" @click="fetchNextPage()">Show earlier steps</button>
   </div>
   <AmendPanel v-if="edits.length" :amending="amending" />
   <NamePanel v-else-if="beside === 'name'" @name="name" @leave="close" />
   <ComparePanel v-else-if="beside === 'compare' && editions" :editions="editions" :first="compared" @leave="close" />
   <NextWavePanel v-else-if="beside === 'wave' && wave" :file="wave" @leave="close" />
   <RoutinePanel v-else-if="beside === 'routine'" :text="routine.text" :name="routine.name" @leave="close" />
  </div>
</template>

<style scoped>
.stop {
  display: flex;
  height: 100%;
}

.story {
  flex: 1 1 50%;
  min-width: 0;
  padding: 16px 28px 40px;
}

header {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 18px;
  align-items: baseline;
  margin-bottom: 14px;
}

.hint {
  font-size: 13px;
  margin: -8px 0 10px;
}

.picking {
  display: flex;
  gap: 14px;
  padding: 6px 12px;
  margin: 0 0 10px;
  border: 1px solid var(--leaf);
  border-radius: 6px;
  background: var(--leaf-pale);
  font-size: 13px;
}

.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  justify-content: flex-end;
}

.hidden {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}

ol {
  list-style: none;
  padding: 0;
  max-width: 1000px;
}
</style>
