<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { type AnyStep, api, got, type Schema } from '@/api/client'
import { leave } from '@/frame/focus'
import { useKeys } from '@/frame/keys'
import EmptyStudy from '@/parts/EmptyStudy.vue'
import { attempt, complain, say } from '@/study/notices'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import SheetSwitch from '@/sheet/SheetSwitch.vue'
import SideSheet from '@/sheet/SideSheet.vue'
import { useSheets } from '@/sheet/sheets'
import type { Seen } from './grid'
import ArrangePanel from './ArrangePanel.vue'
import CellPane from './CellPane.vue'
import RecordGrid from './RecordGrid.vue'
import RemovedDialog from './RemovedDialog.vue'
import ReplacePanel from './ReplacePanel.vue'
import { useRecordView } from './view'
import ViewPanel from './ViewPanel.vue'

const study = useStudy()
const route = useRoute()
const router = useRouter()
const view = useRecordView()
const grid = ref<InstanceType<typeof RecordGrid>>()
const sheets = useSheets()
const seen = ref<Seen>({ first: 0, last: 0, said: '', variable: null, row: 0 })

const strays = computed(() => study.overview?.fill.stray ?? 0)
const holding = computed(() => study.variables.filter((each) => each.fill.stray).length)
const empty = computed(() => !study.overview?.records && !(void study.tick, study.session?.coming().length))

/** The stray that was gone to last, as long as it is chosen. */
const walked = ref<Schema['NextStray'] | null>(null)
const onStray = computed(() => (walked.value && walked.value.position === seen.value.row && walked.value.variable === seen.value.variable ? walked.value : null))

/** Goes to the next stray behind the chosen entry, or the one before it; from the end it starts again at the other. */
async function toStray(back: boolean): Promise<void> {
  const { record, variable } = grid.value?.chosen() ?? { record: 0, variable: null }
  const path = { study_id: study.id }
  const ask = (from: number, beside: string | null) =>
    attempt(() =>
      got(api.GET('/api/studies/{study_id}/next-stray', { params: { path, query: { ...view.query, record: from, variable: beside, back } } })),
    )
  const found = (await ask(record, variable)) ?? (await ask(back ? Number.MAX_SAFE_INTEGER : 0, null))
  if (found === undefined) return
  walked.value = found
  if (!found) say('No stray is left.')
  else if (found.position !== null && found.position !== undefined) grid.value?.goTo(found.position, found.variable)
  else {
    await view.arrange({})
    say(`The next stray is in record ${count(found.record)}, which was not among those chosen: all are shown.`)
    await toStray(back)
  }
}

async function fromQuery(): Promise<void> {
  const { variable, stray, check, which, row } = route.query
  if (typeof variable !== 'string' || !grid.value) return
  if (!view.plain && (row !== undefined || stray !== undefined || check !== undefined)) await view.arrange({})
  if (stray === undefined && typeof check !== 'string') {
    grid.value.goTo(Number(row ?? 0), variable)
    return
  }
  const query = { entry: typeof stray === 'string' && stray ? [stray] : [], ...(typeof check === 'string' ? { check } : {}), ...(typeof which === 'string' ? { which } : {}) }
  const path = { study_id: study.id, variable_id: variable }
  const found = await attempt(() =>
    got(api.GET('/api/studies/{study_id}/variables/{variable_id}/records', { params: { path, query } })),
  )
  grid.value?.goTo(found?.positions[0] ?? 0, variable)
}

const replacing = ref(false)
/** The variables of the range that is chosen, whose entries are replaced. */
const within = computed(() => grid.value?.within() ?? [])

const place = useTemplateRef<HTMLInputElement>('place')
const identifier = computed(() => study.variables.find((each) => each.use === 'identifier')?.name ?? '')

/** Goes to the record that somebody names by its identifier, else by its number. */
/** The column that one of some words names, and the other words. */
function columnIn(text: string): [id: string | undefined, rest: string] {
  const words = text.split(/\s+/)
  for (const same of [(name: string, word: string) => name === word, (name: string, word: string) => name.toLowerCase() === word.toLowerCase()]) {
    for (const [at, word] of words.entries()) {
      const tag = study.variables.find((each) => same(each.name, word))
      if (tag) return [tag.id, words.filter((_, number) => number !== at).join(' ')]
    }
  }
  return [undefined, text]
}

/** A record by its identifier or number, a column by its name, or both. */
async function goToPlace(): Promise<void> {
  const [column, text] = columnIn(place.value?.value.trim() ?? '')
  if (column && view.variables && !view.variables.includes(column)) say('This column is not among those shown.')
  else if (text) await goToRecord(text, column)
  else if (column) grid.value?.goTo(seen.value.row, column)
}
async function goToRecord(text: string, column?: string): Promise<void> {
  const path = { study_id: study.id }
  const found = await attempt(() => got(api.GET('/api/studies/{study_id}/record-called', { params: { path, query: { ...view.query, text } } })))
  if (!found) return
  const [position] = found.positions
  if (position === null) {
    await view.arrange({})
    say('This record was not among those chosen: all are shown.')
    await goToRecord(text, column)
  } else if (position === undefined) say(identifier.value ? `No record has ${text} as its ${identifier.value} or its number.` : `There is no record ${text}.`)
  else grid.value?.goTo(position, column ?? grid.value.chosen().variable ?? study.variables[0]!.id)
}

// What is done with whole records -----------------------------------------------------------------

const reading = ref(false)
const pane = ref<InstanceType<typeof CellPane>>()

async function withRecords(does: (records: number[]) => Partial<AnyStep>): Promise<void> {
  const records = (await grid.value?.records())?.filter((record) => record > 0) ?? []
  if (!records.length) return
  const outcome = await study.take({ ...does(records), format: 1 } as AnyStep)
  if (outcome) say(outcome.sentence)
}
const removeRecords = (): Promise<void> => withRecords((records) => ({ do: 'remove records', records }))
async function copyRecords(): Promise<void> {
  await withRecords((records) => ({ do: 'copy records', records }))
  grid.value?.goTo(grid.value.rowCount - 1, grid.value.chosen().variable ?? study.variables[0]!.id)
}
const removed = ref<Schema['RemovedRecords'] | null>(null)
const putting = ref(false)
async function askRemoved(): Promise<void> {
  removed.value = (await attempt(() => got(api.GET('/api/studies/{study_id}/removed-records', { params: { path: { study_id: study.id } } })))) ?? null
}
async function comment(): Promise<void> {
  reading.value = true
  await nextTick()
  await pane.value?.write()
}
const keyIn = (): void => void router.push({ name: 'key', params: { study: study.id } })

/** Keeps what is being typed, starts a new record and goes to its first entry; what is typed next belongs there. */
async function newRecord(): Promise<void> {
  grid.value?.keep()
  const made = study.session?.addRecord()
  made?.done.catch(complain)
  await nextTick()
  grid.value?.goTo(grid.value.rowCount - 1, study.variables[0]!.id)
}

useKeys({ 'new record': () => void newRecord(), 'next stray': () => void toStray(false), 'previous stray': () => void toStray(true), 'go to record': () => place.value?.select(), replace: () => (replacing.value = !replacing.value), 'read on': () => (reading.value = !reading.value), comment: () => void comment(), 'key in': keyIn }, () => study.variables.length > 0)

watch([grid, () => route.query], () => void fromQuery(), { flush: 'post' })
</script>

<template>
  <EmptyStudy v-if="!study.variables.length" />
  <div v-else class="stop-column">
    <div class="bar">
      <h2 class="title">Records</h2>
      <input
        ref="place" class="place" :placeholder="identifier ? `Go to ${identifier}, record, column` : 'Go to record, column'" aria-label="Go to a record or column" title="Ctrl G" spellcheck="false" data-test="go-to"
        @keydown.enter.prevent="goToPlace" @keydown.esc.prevent.stop="leave"
      />
      <v-menu :close-on-content-click="false">
        <template #activator="{ props: menu }"><v-btn v-bind="menu" data-test="open-views" :title="view.current ? view.current.shows.name : 'Which variables are shown, in which order'">{{ view.current?.shows.name ?? (view.variables ? counted(view.variables.length, 'variable') : 'All variables') }} ▾</v-btn></template>
        <ViewPanel purpose="grid" />
      </v-menu>
      <v-menu :close-on-content-click="false">
        <template #activator="{ props: menu }"><v-btn v-bind="menu" data-test="open-arrange" title="Which records are shown, in which order">{{ view.plain ? 'All records' : `${count(view.rows)} records` }} ▾</v-btn></template>
        <ArrangePanel />
      </v-menu>
      <v-menu>
        <template #activator="{ props: menu }"><v-btn v-bind="menu" data-test="record-menu" @click="askRemoved">Record ▾</v-btn></template>
        <div class="panel menu">
          <button data-test="copy-records" @click="copyRecords">Copy the chosen records</button>
          <button data-test="remove-records" @click="removeRecords">Remove the chosen records</button>
          <button v-if="removed?.count" data-test="removed-records" @click="putting = true">{{ counted(removed.count, 'removed record') }}: put some back…</button>
          <button data-test="comment" @click="comment">Comment on the chosen entry <kbd>Alt M</kbd></button>
          <button data-test="compare-keyings" @click="router.push({ name: 'keyings', params: { study: study.id } })">Compare with a second keying…</button>
        </div>
      </v-menu>
      <v-btn data-test="open-replace" :aria-pressed="replacing" title="Ctrl H" @click="replacing = !replacing">Replace</v-btn>
      <span class="grow" />
      <SheetSwitch />
      <v-btn data-test="open-pane" :aria-pressed="reading" title="The whole text of an entry, and comments (Alt R)" @click="reading = !reading">Read</v-btn>
      <v-btn data-test="next-stray" :disabled="!strays" title="Shift F8 goes back" @click="toStray(false)">Next stray &nbsp;<kbd>F8</kbd></v-btn>
      <v-btn data-test="key-in" title="One record after another, as its questionnaire (Alt K)" @click="keyIn">Key in</v-btn>
      <v-btn variant="flat" color="primary" data-test="new-record" @click="newRecord">New record &nbsp;<kbd>Ctrl ↵</kbd></v-btn>
    </div>
    <div v-if="empty" class="empty" data-test="no-records">
      <h2>No record yet</h2>
      <p>Start one and key its entries in, or bring a file in at the Intake: its columns are matched to these variables.</p>
      <v-btn variant="flat" color="primary" @click="newRecord">New record</v-btn>
      <v-btn :to="{ name: 'intake', params: { study: study.id } }">Go to the Intake</v-btn>
    </div>
    <div v-else class="beside">
      <p v-if="!view.rows" class="none soft" data-test="no-rows">No record meets this. <button class="act" @click="view.arrange({})">show all records</button></p>
      <RecordGrid ref="grid" @seen="seen = $event" />
      <CellPane v-if="reading" ref="pane" :variable="seen.variable" :row="seen.row" :record="grid?.entry.record ?? null" :cell="grid?.entry.cell ?? null" @go="(row, variable) => grid?.goTo(row, variable)" @close="reading = false" />
      <SideSheet v-if="sheets.shown && !reading" :variables="seen.variable ? [seen.variable] : []" @go="grid?.goTo(seen.row, $event)" />
    </div>
    <RemovedDialog v-if="removed" v-model="putting" :removed="removed" />
    <ReplacePanel v-if="replacing && !empty" :variables="within" @close="replacing = false" />
    <footer class="foot-bar">
      <span class="soft" data-test="cell-status" role="status">{{ seen.said }}</span>
      <span class="grow" />
      <span data-test="stray-status"><template v-if="strays"><template v-if="onStray">stray {{ count(onStray.number) }} of </template><b class="beet">{{ counted(strays, 'stray') }}</b> in {{ counted(holding, 'variable') }}</template><template v-else>no strays</template></span>
      <span class="soft">{{ count(seen.first) }}–{{ count(seen.last) }} of {{ count(view.rows) }}<template v-if="!view.plain"> chosen from {{ count(study.overview?.records ?? 0) }}</template></span>
    </footer>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 10px;
  height: 46px;
  padding: 0 16px;
  border-bottom: 1px solid var(--line);
}

@media (max-width: 1300px) {
  .bar {
    flex-wrap: wrap;
    gap: 4px 8px;
    height: auto;
    min-height: 46px;
    padding: 4px 12px;
  }

  .bar kbd {
    display: none;
  }
}

@media (max-width: 900px) {
  .beside {
    flex-direction: column;
  }

  .beside > :not(.grid) {
    width: auto;
    max-height: 50%;
    border-left: 0;
    border-top: 1px solid var(--line2);
  }
}

.place {
  flex: 0 1 150px;
  min-width: 60px;
  height: 31px;
  margin-left: 8px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 10px;
  font-size: 13px;
}

.menu {
  display: flex;
  flex-direction: column;
  padding: 6px 0;
}

.menu button {
  min-height: 32px;
  padding: 0 14px;
  text-align: left;
  font-size: 13px;
}

.menu button:hover,
.menu button:focus-visible {
  background: var(--leaf-pale);
}

.none {
  position: absolute;
  margin: 90px 40px;
  z-index: 3;
}

.beside {
  position: relative;
  flex: 1;
  min-height: 0;
  display: flex;
}

.foot-bar {
  min-height: 34px;
  gap: 2px 24px;
}
</style>
