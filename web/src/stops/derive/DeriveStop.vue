<script setup lang="ts">
/** Deriving: what it is made of at the left, how, what comes of all records, and its name at the foot. */
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { type AnyStep, api, got, newId } from '@/api/client'
import { useKeys } from '@/frame/keys'
import EmptyStudy from '@/parts/EmptyStudy.vue'
import LevelSign from '@/parts/LevelSign.vue'
import SentenceField from '@/parts/SentenceField.vue'
import { useTyped } from '@/parts/typed'
import { useChosen } from '@/stops/codebook/chosen'
import { useAsked } from '@/study/asked'
import { say } from '@/study/notices'
import { count, counted, figure } from '@/study/shown'
import { useStudy } from '@/study/store'
import BandPicture from './BandPicture.vue'
import RibbonPicture from './RibbonPicture.vue'
import ScoreBands, { type Asked } from './ScoreBands.vue'
import ScoreItems from './ScoreItems.vue'
import type { Band } from './sentence'
import { useShaping } from './shaping'
import SourceList from './SourceList.vue'
import ThemeFrame from './ThemeFrame.vue'

const WAYS: Record<string, string> = {
  mentions: 'Themes', join: 'Into one text', which: 'Into one code', 'by rank': 'By rank',
  recode: 'Recode', bands: 'Bands', codes: 'Text to codes', indicators: 'Indicators', split: 'Split answers', score: 'Score', figures: 'Group figures',
  reverse: 'Turn round', labels: 'To labels', number: 'To number', text: 'To text', formula: 'Formula',
}
const OWN_WORDS = ['recode', 'bands', 'codes', 'mentions', 'indicator', 'indicators', 'split', 'join', 'which of', 'things by rank', 'ranks of', 'convert', 'only where', 'same', 'below', 'above']

const study = useStudy()
const route = useRoute()
const router = useRouter()
const whole = () => study.stamp({ tags: 'all', entries: 'all', shelves: ['list', 'battery', 'habit'], order: true, records: true })
const tags = useChosen()
/** What it is made of: as the address says, else the tag that was worked on. */
const chosen = computed(() => [String(route.params.variable), tags.first].find((id) => id && study.byId.has(id)) ?? null)

const derivedNow = useAsked('derived', () => [study.id, whole()] as const, ([study_id]) => got(api.GET('/api/studies/{study_id}/derived', { params: { path: { study_id } } })))
const derived = computed(() => derivedNow.value?.variables ?? null)
/** The derived variable that is looked at, which is derived anew in its place. */
const again = computed(() => derived.value?.find((each) => each.id === chosen.value && !each.at) ?? null)

// The way and its sentence -------------------------------------------------------------------------

const bands = ref(4)
const rare = ref(0)
const equal = ref<'counts' | 'widths'>('counts')
/** The list from which bands are taken, instead. */
const like = ref('')
const lists = useAsked('range lists', () => [study.id, study.stamp({ tags: 'all', shelves: ['list'] })] as const, ([study_id]) => got(api.GET('/api/studies/{study_id}/lists-of-ranges', { params: { path: { study_id } } })))
const proposed = useAsked(
  'derivations',
  () => [study.id, chosen.value, bands.value, equal.value, rare.value || 0, like.value, whole()] as const,
  ([study_id, variable_id, number, how, least, list]) =>
    variable_id ? got(api.GET('/api/studies/{study_id}/variables/{variable_id}/derivations', { params: { path: { study_id, variable_id }, query: { bands: number, equal: how, rare: least, ...(list ? { like: list } : {}) } } })).then((ways) => ({ of: variable_id, ways })) : null,
)
const ways = computed(() => (proposed.value?.of === chosen.value ? proposed.value.ways : []))
const way = ref('')
const text = ref('')
const names = ref('')
const label = ref('')
const inPlace = ref(false)
/** The bands that what it makes is parted into, too. */
const then = ref<Asked | null>(null)
/** Whether the same is done for all of the battery. */
const all = ref(false)

/** For all of a battery a * stands for the name of each. */
function forAll(): void {
  all.value = !all.value
  const own = study.byId.get(chosen.value ?? '')?.name ?? ''
  names.value = all.value ? (names.value.startsWith(own) ? `*${names.value.slice(own.length)}` : `*_${way.value.slice(0, 1)}`) : names.value.replace('*', own)
}
function take(name: string): void {
  const found = ways.value.find((each) => each.way === name)
  if (!found) return
  way.value = name
  text.value = found.text
  names.value = found.name
  label.value = ''
  inPlace.value = false
  all.value = false
  then.value = null
}
/** A variable that was chosen anew begins with its own sentence, or with the first way that suits it. */
let begun: string | null = null
watch([ways, again, derived], ([list, own]) => {
  if (!list.length || !derived.value || begun === chosen.value) return
  begun = chosen.value
  if (own) {
    way.value = ''
    text.value = own.sentence
    names.value = study.byId.get(own.id)!.name
    label.value = ''
    inPlace.value = true
  } else take(list[0]!.way)
}, { immediate: true })
watch([bands, equal, rare, like], () => (begun === chosen.value ? (waiting = way.value) : null))
let waiting = ''
watch(ways, () => {
  if (waiting) take(waiting)
  waiting = ''
})

// What comes of it ---------------------------------------------------------------------------------

const into = computed(() => (inPlace.value ? chosen.value : null))
const sisters = computed(() => {
  const tag = study.byId.get(chosen.value ?? '')
  return tag?.battery ? study.variables.filter((each) => each.battery === tag.battery && each.type === tag.type && !derived.value?.some((other) => other.id === each.id)).map((each) => each.id) : []
})
const asking = computed(() => ({ text: text.value, names: names.value, into: into.value, label: label.value, also: all.value ? sisters.value : [], then: then.value }))
const typed = useTyped(asking)
const look = useAsked(
  'derive',
  () => [study.id, typed.value, whole()] as const,
  ([study_id, body]) => (body.text.trim() ? got(api.POST('/api/studies/{study_id}/derive', { params: { path: { study_id } }, body })).then((found) => ({ found, of: body })) : null),
)
/** What is known of the very thing that stands there. */
const known = computed(() => (text.value.trim() && JSON.stringify(look.value?.of) === JSON.stringify(asking.value) ? look.value!.found : null))
const shown = computed(() => look.value?.found ?? null)
const problem = computed(() => known.value?.problem ?? null)
const said = computed(() => {
  if (!known.value) return ''
  return problem.value ? [problem.value.what, problem.value.remedy].filter(Boolean).join(' ') : (known.value.notes ?? []).join('; ')
})
const at = ref(0)
const one = computed(() => shown.value?.variables?.[then.value ? 0 : Math.min(at.value, (shown.value.variables?.length ?? 1) - 1)] ?? null)
/** Of what is measured bands can be made, too: in the same step, behind it. */
const first = computed(() => shown.value?.variables?.[0] ?? null)
const bandable = computed(() => !shown.value?.several && !all.value && !!first.value?.after && ['interval', 'ratio'].includes(first.value.level))
const thenMade = computed(() => (then.value && shown.value?.then ? shown.value.variables!.at(-1)! : null))
const source = computed(() => study.byId.get(shown.value?.source ?? '') ?? null)

const { editable, becomesNow, labelsNow, bandsNow, themesNow, becomes, relabel, move, shapeBands, shapeThemes, turn } = useShaping(text, shown, one, () => source.value?.type === 'text')
/** The bands as the list of the variable itself: a way of showing it, by which no entry changes. */
async function asList(bands: Band[]): Promise<void> {
  const codes = bands.map((each, number) => ({ low: each.low, high: each.high, label: one.value?.codes[number]?.label ?? '' }))
  const outcome = await study.take({ do: 'define', format: 1, variables: [chosen.value!], parts: { codes, complete: false } } as AnyStep)
  if (outcome) say(outcome.sentence)
}

// Keeping ------------------------------------------------------------------------------------------

const possible = computed(() => !!known.value?.makes?.length)
const keeping = ref(false)
/** Whoever is faster than the answer has it derived once it is known what comes of what stands there. */
const hurried = ref('')
watch(known, () => {
  if (hurried.value === JSON.stringify(asking.value)) void derive()
  else if (known.value) hurried.value = ''
})
async function derive(): Promise<void> {
  if (keeping.value) return
  hurried.value = known.value ? '' : JSON.stringify(asking.value)
  if (!possible.value) return
  keeping.value = true
  const makes = known.value!.makes!
  /** Ids of its own for what is new, also where a later sentence names it. */
  const ids = new Map(makes.flatMap((each) => Object.keys(each.into)).map((id) => [id, id === into.value ? id : newId()]))
  const variables = makes.map(({ how, into: named }, number) => ({
    how: { ...how, names: Object.fromEntries(Object.entries(how.names ?? {}).map(([name, id]) => [name, ids.get(id) ?? id])) },
    into: Object.fromEntries(Object.entries(named).map(([id, name]) => [ids.get(id)!, name])),
    ...(label.value && !all.value && !number ? { label: label.value } : {}),
  }))
  const step = { do: 'derive', format: 1, variables } as AnyStep
  const outcome = await study.take(step)
  keeping.value = false
  if (!outcome) return
  say(outcome.sentence)
  if (!into.value) begun = null
}
useKeys({ derive: () => void derive() })
const workAgain = async (variables: string[]): Promise<void> => {
  const outcome = await study.take({ do: 'work out again', format: 1, variables } as AnyStep)
  if (outcome) say(outcome.sentence)
}
const letFollow = async (on: boolean): Promise<void> => {
  const outcome = await study.take({ do: 'let follow', format: 1, on } as AnyStep)
  if (outcome) say(outcome.sentence)
}
function choose(id: string): void {
  tags.only(id)
  void router.push({ name: 'derive', params: { study: study.id, variable: id } })
}
/** What it is made of, in words: of a score the battery. */
const title = computed(() => {
  const tag = study.byId.get(chosen.value ?? '')
  const battery = way.value === 'score' && tag?.battery ? study.overview?.batteries[tag.battery] : undefined
  const of = again.value && !way.value && source.value ? source.value : tag
  return battery || of?.label || of?.name || ''
})
const parts = computed(() => {
  const fill = one.value?.fill
  if (!fill) return []
  return [`${count(fill.valid)} valid`, fill.missing ? `${count(fill.missing)} coded missing` : '', fill.blank ? `${count(fill.blank)} blank` : ''].filter(Boolean)
})
</script>

<template>
  <EmptyStudy v-if="!study.variables.length" />
  <div v-else class="stop split">
    <SourceList :chosen="chosen" :derived="derived ?? []" @choose="choose" @again="workAgain((derived ?? []).map((each) => each.id))" :follows="derivedNow?.follows ?? false" @follow="letFollow" />
    <div v-if="!chosen" class="empty grow" data-test="derive-empty">
      <h2>Choose what it is made of</h2>
      <p>Texts become codes, codes fewer codes, numbers bands, several answers in one cell variables of their own, items a score. Nothing is changed before you have seen what becomes of every record.</p>
    </div>
    <section v-else class="middle">
      <nav class="ways" aria-label="Ways">
        <button v-for="each in ways" :key="each.way" :class="{ on: way === each.way }" :aria-pressed="way === each.way" :data-test="`way-${each.way}`" @click="take(each.way)">{{ WAYS[each.way] ?? each.way }}</button>
      </nav>
      <div class="shape scroll" tabindex="-1">
        <h2>{{ title }}<template v-if="one"> → {{ label || one.label || one.name }}</template></h2>
        <p v-if="again && !way" class="hint">It is derived already: what is changed here changes it in its place.<button v-if="again.behind" class="act" data-test="work-again" @click="workAgain([chosen!])">recalculate it</button></p>
        <p v-else-if="editable" class="hint">Type the number that an entry becomes, or drag it onto a new code. What is not named stays what it is.</p>
        <p v-if="way === 'bands'" class="controls">
          <label>bands <input v-model.number="bands" type="number" min="2" max="30" data-test="bands" /></label>
          <button v-for="each in ['counts', 'widths'] as const" :key="each" :aria-pressed="equal === each" class="act" :class="{ on: equal === each }" :data-test="`equal-${each}`" @click="equal = each">equal {{ each }}</button>
          <label v-if="lists?.length">or as in <select v-model="like" data-test="like"><option value="">no list</option><option v-for="each in lists" :key="each.id" :value="each.id">{{ each.name }} ({{ each.ranges }})</option></select></label>
        </p>
        <p v-if="way === 'codes'" class="controls"><label>texts in fewer than <input v-model.number="rare" type="number" min="0" data-test="rare" /> records become “Other”</label></p>
        <div v-if="(shown?.variables?.length ?? 0) > 1 && !then" class="chips several" aria-label="What it makes">
          <button v-for="(each, number) in shown!.variables" :key="each.name" :class="{ on: at === number }" :aria-pressed="at === number" @click="at = number">{{ each.name }} <span class="soft">{{ each.label.split(': ').at(-1) }}</span></button>
        </div>
        <ScoreItems v-if="shown?.reliability" :reliability="shown.reliability" @turn="turn" />
        <p v-if="bandable && !then" class="controls"><button class="act" data-test="then-bands" @click="then = { name: `${names.trim()}_b`, text: '', number: 3, equal: 'counts' }">and its bands, in the same step</button></p>
        <ScoreBands v-if="then && bandable" v-model="then" :of="names" :bands="shown?.bands ?? []" :table="thenMade?.old_by_new ?? null" :whole="first!.type === 'integer'" @leave="then = null" />
        <BandPicture
          v-if="one?.old_by_new && source && shown?.bands?.length && !then" :source="source.id" :bands="bandsNow" :table="one.old_by_new" :whole="source.type === 'integer'"
          @bands="shapeBands" @list="asList"
        />
        <ThemeFrame v-else-if="shown?.themes?.length" :themes="themesNow" :variables="shown.variables ?? []" :left="shown.left ?? []" @themes="shapeThemes" />
        <RibbonPicture v-else-if="one?.old_by_new" :table="one.old_by_new" :editable="editable" :becomes="becomesNow" :labels="labelsNow" @becomes="becomes" @label="relabel" @move="move" />
        <table v-if="one?.after && (!one.old_by_new || one.old_by_new.new.some((each) => each.different > 1))" class="figures" data-test="derived-figures">
          <thead><tr><td /><th v-for="(_, name) in one.after" :key="name" scope="col">{{ name }}</th></tr></thead>
          <tbody>
            <tr v-if="one.before"><th scope="row">as it stands</th><td v-for="(value, name) in one.before" :key="name">{{ figure(value) }}</td></tr>
            <tr><th scope="row">as it will be</th><td v-for="(value, name) in one.after" :key="name">{{ figure(value) }}</td></tr>
          </tbody>
        </table>
      </div>
      <footer>
        <SentenceField v-model="text" label="How it is derived, as a sentence" :problem="problem" :said="said" :words="OWN_WORDS" />
        <div class="line">
          <input v-model="names" class="name mono" :disabled="inPlace" aria-label="Name" data-test="derive-name" spellcheck="false" />
          <input v-model="label" class="label" :disabled="inPlace" :placeholder="one?.label || 'label'" aria-label="Label" data-test="derive-label" />
          <span v-if="one" class="soft level"><LevelSign :level="one.level" /> {{ one.level }}, {{ one.type }}</span>
        </div>
        <div class="line">
          <span v-if="one" class="account" data-test="accounting">{{ parts.join(' · ') }}<b v-if="one.fill.stray" class="beet"> · {{ counted(one.fill.stray, 'stray') }}</b></span>
          <span class="grow" />
          <v-btn v-if="way && sisters.length > 1 && !inPlace && shown?.source === chosen && !shown.several" :variant="all ? 'flat' : 'outlined'" :color="all ? 'primary' : undefined" :aria-pressed="all" title="The same for every variable of its battery; a * in the name stands for theirs" data-test="for-all" @click="forAll">For all {{ sisters.length }}</v-btn>
          <v-btn v-if="way && !all && !shown?.several && way !== 'score' && way !== 'figures'" :variant="inPlace ? 'flat' : 'outlined'" :color="inPlace ? 'primary' : undefined" :aria-pressed="inPlace" title="Changes this variable itself; the entries that were brought in stay in the diary" data-test="in-place" @click="inPlace = !inPlace">In place</v-btn>
          <v-btn variant="flat" color="primary" :disabled="!possible || keeping" data-test="derive" @click="derive">Derive &nbsp;<kbd>Ctrl ↵</kbd></v-btn>
        </div>
      </footer>
    </section>
  </div>
</template>

<style scoped>
.stop {
  display: flex;
  height: 100%;
}

.middle {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}

.ways {
  flex: none;
  display: flex;
  gap: 20px;
  padding: 0 26px;
  border-bottom: 1px solid var(--line);
  overflow-x: auto;
}

.ways button {
  font-size: 13px;
  line-height: 40px;
  color: var(--soil);
  white-space: nowrap;
  border-bottom: 3px solid transparent;
}

.ways .on {
  color: var(--ink);
  font-weight: 650;
  border-color: var(--leaf);
}

.shape {
  flex: 1;
  min-height: 0;
  padding: 16px 26px;
}

h2 {
  font-size: 20px;
  font-weight: 650;
}

.hint {
  font: 15px/1.5 var(--serif);
  color: var(--soil);
  margin: 2px 0 12px;
}

.hint .act {
  margin-left: 14px;
}

.controls {
  display: flex;
  align-items: center;
  gap: 16px;
  margin: 8px 0 14px;
  font-size: 13px;
}

.controls input {
  width: 58px;
  height: 28px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 8px;
}

.controls .on {
  font-weight: 650;
}

.several {
  margin: 4px 0 14px;
}

.figures {
  border-collapse: collapse;
  margin-top: 16px;
  font-size: 13.5px;
}

.figures th,
.figures td {
  font-weight: 400;
  text-align: right;
  padding: 4px 0 4px 28px;
}

.figures th {
  color: var(--soft);
}

.figures th[scope='row'] {
  text-align: left;
  padding-left: 0;
}

.figures tbody tr {
  border-top: 1px solid var(--line);
}

footer {
  flex: none;
  background: var(--bed);
  border-top: 1px solid var(--line);
  padding: 10px 26px 12px;
}

.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 12px;
  margin-top: 4px;
}

.name,
.label {
  height: 31px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 10px;
  font-size: 13px;
}

.name {
  width: 120px;
  font-weight: 600;
}

.label {
  flex: 1 1 200px;
  min-width: 0;
}

.level,
.account {
  font-size: 13px;
  white-space: nowrap;
}

.account {
  flex: 1 1 260px;
  white-space: normal;
}
</style>
