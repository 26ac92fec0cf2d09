<script setup lang="ts">
/** Records keyed in, one after another, each as its questionnaire: by keys alone, and kept as one goes. */
import { useIntervalFn } from '@vueuse/core'
import { computed, nextTick, onMounted, reactive, ref, shallowReactive, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'

import { type AnyStep, api, got, newId } from '@/api/client'
import { useKeys } from '@/frame/keys'
import EmptyStudy from '@/parts/EmptyStudy.vue'
import { useRecordView } from '@/stops/records/view'
import ViewPanel from '@/stops/records/ViewPanel.vue'
import { useAsked } from '@/study/asked'
import { attempt, complain, say } from '@/study/notices'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { Keyed, missingBy } from './keyed'
import KeyedQuestion from './KeyedQuestion.vue'
import KeyedSoFar from './KeyedSoFar.vue'

const study = useStudy()
const view = useRecordView()
const router = useRouter()
const page = useTemplateRef<HTMLElement>('page')

const questions = useAsked(
  'keyed questions',
  () => [study.id, view.variables, study.stamp({ tags: 'all', shelves: ['list', 'battery', 'section'], order: true })] as const,
  ([study_id, variables]) =>
    study_id ? got(api.GET('/api/studies/{study_id}/keyed-questions', { params: { path: { study_id }, query: { variables: variables?.join(',') ?? '' } } })) : null,
)

// Records of this sitting -------------------------------------------------------------------------

interface Sitting {
  /** Its number, or the one that it goes by until it has one. */
  record: number
  entries: Map<string, string>
  begun: number
  done: boolean
}
const sitting = shallowReactive<Sitting[]>([])
const turned = ref(0)
const keyed = shallowReactive<{ now: Keyed | null }>({ now: null })
const drawn = ref(0)
const now = ref(Date.now())
useIntervalFn(() => (now.value = Date.now()), 5_000)

const mine = (): Sitting | undefined => sitting[turned.value]
/** The record is begun with its first entry: nobody leaves blank ones behind. */
function keep(variable: string, text: string): void {
  if (!mine()) {
    const made = study.session!.addRecord()
    made.done.catch(complain)
    sitting.push({ record: made.record, entries: keyed.now!.entries, begun: Date.now(), done: false })
  }
  const { record } = mine()!
  void study.type({ record: study.session!.numberOf(record), variable, text }, study.session!.seen())
  if (variable === identifier.value) void lookFor(text)
}
function end(): void {
  const done = mine()
  if (done) done.done = true
  turn(sitting.length)
}
/** Turns to a record of this sitting, or to a new one behind them. */
function turn(to: number): void {
  if (to < 0 || to > sitting.length || !keyed.now) return
  turned.value = to
  known.value = ''
  keyed.now.turn(sitting[to]?.entries ?? new Map())
  draw()
}

// Identifiers -------------------------------------------------------------------------------------

const identifier = computed(() => study.variables.find((each) => each.use === 'identifier')?.id ?? null)
const known = ref('')
let looks = 0
async function lookFor(text: string): Promise<void> {
  known.value = ''
  const look = ++looks
  if (!text.trim()) return
  const path = { study_id: study.id }
  const found = await attempt(() => got(api.GET('/api/studies/{study_id}/record-called', { params: { path, query: { text, by_number: false } } })))
  if (look !== looks) return // another text was typed since
  const own = mine() ? study.session!.numberOf(mine()!.record) : 0
  const [other] = (found?.records ?? []).filter((record) => record !== own)
  if (other && text === (typing.value || keyed.now?.entries.get(identifier.value!))) known.value = `${study.byId.get(identifier.value!)!.name} ${text} is keyed already, in record ${count(other)}. ↑ goes back to it.`
}

// Keys --------------------------------------------------------------------------------------------

/** What is being typed into the field of a free question. */
const typing = ref('')
const stop = computed(() => (void drawn.value, keyed.now?.stop))
const free = computed(() => (void drawn.value, keyed.now?.free ?? false))
const remarking = reactive({ open: false, text: '' })

function draw(): void {
  drawn.value++
  typing.value = keyed.now?.stop ? (keyed.now.entries.get(keyed.now.stop.variable.id) ?? '') : ''
  if (!choosing.value) void nextTick(toKeys)
}
/** Variables are being chosen: the keys belong there. */
const choosing = ref(false)
const toKeys = (): void => (page.value?.querySelector<HTMLElement>('[data-test=keyed-text]') ?? page.value)?.focus()
watch(choosing, (open) => open || void nextTick(toKeys))

function onKey(event: KeyboardEvent): void {
  const machine = keyed.now
  if (!machine || remarking.open || sought.value !== null || choosing.value || event.ctrlKey || event.metaKey || event.isComposing) return
  const moves: Record<string, () => void> = {
    ArrowUp: () => machine.back(), ArrowDown: () => machine.on(), PageUp: () => turn(turned.value - 1), PageDown: () => turn(turned.value + 1),
    Escape: () => (machine.doubt || machine.begun ? machine.forget() : leave()),
  }
  if (event.key === 'Tab' && !event.altKey) moves.Tab = () => (event.shiftKey ? machine.back() : machine.free ? machine.typed(typing.value) : machine.on())
  const move = event.altKey ? undefined : moves[event.key]
  if (move) move()
  else if (machine.free) {
    if (event.key === 'Enter') machine.typed(typing.value)
    else if (event.altKey && event.key.length === 1 && machine.missing(event.key)) void 0
    else return
    if (machine.doubt) {
      event.preventDefault()
      drawn.value++
      page.value?.querySelector<HTMLInputElement>('[data-test=keyed-text]')?.select() // what is typed next takes its place
      return
    }
  } else if (event.altKey || !machine.press(event.key)) {
    if (event.key === '#') remarking.open = true
    return
  }
  event.preventDefault()
  draw()
}
function onTyped(): void {
  keyed.now?.forget()
  drawn.value++
  if (stop.value?.variable.id === identifier.value) void lookFor(typing.value)
}
function choose(entry: string): void {
  keyed.now?.answer(entry)
  draw()
}
function tick(at: number): void {
  keyed.now?.toggle(at)
  drawn.value++
  page.value?.focus()
}
function goTo(variable: string): void {
  const at = keyed.now?.stops.findIndex((each) => each.question.variables.some((one) => one.id === variable && (each.ticks || each.variable.id === variable))) ?? -1
  if (at >= 0) keyed.now!.go(at)
  draw()
}

// Questions may change while one keys, by whoever works on the tags: what is begun at one stays as it is.
watch(questions, (found) => {
  if (!found) return
  const [before, text] = [keyed.now, typing.value]
  keyed.now = new Keyed(found, keep, end)
  const same = before !== null && keyed.now.follow(before, text)
  draw()
  if (same) typing.value = text
}, { immediate: true })

async function remark(): Promise<void> {
  const [record, text] = [mine() ? study.session!.numberOf(mine()!.record) : 0, remarking.text.trim()]
  remarking.open = false
  if (text && record > 0) await study.take({ do: 'remark', format: 1, comment: newId(), on: { record, variable: stop.value?.variable.id ?? null, text } } as AnyStep)
  else if (text) say('Key the first entry of this record in, then remark on it.')
  remarking.text = ''
  draw()
}

// A question gone to by typing ---------------------------------------------------------------------

const sought = ref<string | null>(null)
const SHOWN = 8
/** Questions whose name, label or wording holds what is typed; those whose name begins so come first. */
const met = computed(() => {
  const text = sought.value?.trim().toLowerCase() ?? ''
  const all = (questions.value ?? []).flatMap((question) => question.variables)
  const holds = all.filter((each) => `${each.name} ${each.label} ${each.question ?? ''}`.toLowerCase().includes(text))
  const first = holds.filter((each) => each.name.toLowerCase().startsWith(text))
  return [...first, ...holds.filter((each) => !first.includes(each))].slice(0, SHOWN)
})
function seek(): void {
  sought.value = ''
  void nextTick(() => page.value?.querySelector<HTMLElement>('[data-test=seek]')?.focus())
}
function found(variable: string | undefined): void {
  sought.value = null
  if (variable) goTo(variable)
  else void nextTick(toKeys)
}

const leave = (): void => void router.push({ name: 'records', params: { study: study.id } })
useKeys({ 'go to question': seek, undo: () => { keyed.now?.back(); draw() }, 'key in': leave })
onMounted(() => page.value?.focus())

// What is said ------------------------------------------------------------------------------------

const number = computed(() => (void study.tick, mine() ? study.session!.numberOf(mine()!.record) : 0))
const pace = computed(() => {
  const done = sitting.filter((each) => each.done)
  if (!done.length) return ''
  const seconds = Math.round((now.value - sitting[0]!.begun) / 1000 / Math.max(1, done.length))
  return `${seconds >= 60 ? `${Math.floor(seconds / 60)} min ` : ''}${seconds % 60} s each`
})
const said = computed(() => {
  const which = number.value > 0 ? `record ${count(number.value)}` : 'a new record'
  return [which, `${counted(sitting.length, 'record')} in this sitting`, pace.value].filter(Boolean).join(' · ')
})
/** Keys for missing answers that there are here. */
const missingKeys = computed(() => [['D', 'don’t know'], ['R', 'refused'], ['S', 'skip']].filter(([key]) => missingBy(key!, stop.value?.variable.answers ?? [])))
const called = computed(() => (void drawn.value, identifier.value ? (keyed.now?.entries.get(identifier.value) ?? '') : ''))
</script>

<template>
  <EmptyStudy v-if="!study.variables.length" />
  <div v-else ref="page" class="stop-column keying" tabindex="-1" data-test="keying" @keydown="onKey">
    <div class="bar">
      <h2 class="title">Keying records in</h2>
      <span v-if="called" class="mono called">{{ called }}</span>
      <span class="soft" role="status" data-test="keying-status">{{ said }}</span>
      <span class="grow" />
      <v-menu v-model="choosing" :close-on-content-click="false">
        <template #activator="{ props: menu }"><v-btn v-bind="menu" data-test="keying-views">{{ view.variables ? counted(view.variables.length, 'variable') : 'All variables' }} ▾</v-btn></template>
        <ViewPanel purpose="keying" />
      </v-menu>
      <v-btn data-test="to-keyings" :to="{ name: 'keyings', params: { study: study.id } }">Second keying…</v-btn>
      <v-btn data-test="stop-keying" @click="leave">Stop keying &nbsp;<kbd>Esc</kbd></v-btn>
    </div>
    <div class="beside split">
      <KeyedSoFar v-if="keyed.now && questions" class="listing" :keyed="keyed.now" :drawn="drawn" @go="goTo" />
      <div v-if="stop" class="asked scroll">
        <KeyedQuestion v-model="typing" :keyed="keyed.now!" :drawn="drawn" @typed="onTyped" @choose="choose" @tick="tick" @go="goTo" />
        <p v-if="known" class="doubt" role="alert" data-test="known">{{ known }}</p>
        <p v-if="keyed.now!.doubt" :key="drawn" class="doubt" role="alert" data-test="doubt">
          <b class="mono">{{ keyed.now!.doubt!.entry }}</b> {{ keyed.now!.doubt!.why }}. {{ free ? 'Enter again' : 'Enter' }} to keep it as it stands on paper.
        </p>
        <form v-if="sought !== null" class="seek" @submit.prevent="found(met[0]?.id)">
          <input v-model="sought" placeholder="Go to a question: its name, or words of it" aria-label="Go to a question" spellcheck="false" data-test="seek" @keydown.esc.stop="found(undefined)" @keydown.stop />
          <button v-for="(each, place) in met" :key="each.id" type="button" :class="{ on: !place }" :data-test="`seek-${each.name}`" @click="found(each.id)"><b class="mono">{{ each.name }}</b> {{ each.label }}</button>
          <p v-if="!met.length" class="soft">Nothing found.</p>
        </form>
        <form v-if="remarking.open" class="doubt" @submit.prevent="remark">
          <input v-model="remarking.text" autofocus aria-label="Remark" placeholder="Remark on this entry" data-test="keyed-remark" @keydown.esc.stop="remarking.open = false" @keydown.stop />
        </form>
      </div>
      <p v-else class="asked soft">Choose at least one variable to be keyed.</p>
    </div>
    <footer class="foot-bar keys">
      <template v-if="free"><span><kbd>Enter</kbd> keeps and moves on</span><span v-for="[key, word] in missingKeys" :key="key"><kbd>Alt {{ key }}</kbd> {{ word }}</span></template>
      <template v-else-if="stop?.ticks"><span><kbd>1</kbd>–<kbd>{{ stop.question.variables.length }}</kbd> ticks</span><span><kbd>Enter</kbd> done</span><span><kbd>0</kbd> none</span></template>
      <template v-else><span>its code answers, moves on</span><span v-for="[key, word] in missingKeys" :key="key"><kbd>{{ key }}</kbd> {{ word }}</span><span><kbd>Space</kbd> leave blank</span></template>
      <span><kbd>↑</kbd> back</span><span><kbd>PgUp</kbd> record before</span><span v-if="!free"><kbd>#</kbd> remark</span><span><kbd>Ctrl G</kbd> to a question</span>
      <span class="grow" /><span class="soft">{{ study.busy ? 'being kept' : 'kept as you go' }}</span>
    </footer>
  </div>
</template>

<style scoped>
.keying:focus {
  outline: none;
}

.bar {
  display: flex;
  align-items: center;
  gap: 16px;
  height: 46px;
  padding: 0 16px;
  border-bottom: 1px solid var(--line);
}

.called {
  font-weight: 700;
}

.beside {
  flex: 1;
  min-height: 0;
  display: flex;
}

.asked {
  flex: 1;
  min-width: 0;
  padding: 30px 56px;
}

.seek {
  max-width: 640px;
  margin-top: 20px;
  padding: 10px;
  border: 1px solid var(--leaf);
  border-radius: 8px;
  background: var(--white);
}

.seek button {
  display: block;
  width: 100%;
  padding: 4px 10px;
  text-align: left;
}

.seek .on {
  background: var(--leaf-pale);
}

.seek input,
.doubt input {
  width: 100%;
  height: 32px;
  padding: 0 10px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
}

.doubt {
  max-width: 800px;
  margin-top: 20px;
  padding: 14px 18px;
  border: 1px solid var(--beet);
  border-radius: 8px;
  background: var(--beet-wash);
}

.doubt b {
  margin-right: 8px;
  color: var(--beet);
}

.keys {
  min-height: 44px;
  gap: 2px 22px;
}
</style>
