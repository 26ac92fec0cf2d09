/** A document against the study: what differs, what somebody has decided of it, and the step that comes of that. */
import { refDebounced, useDebounceFn, useSessionStorage } from '@vueuse/core'
import { computed, ref, shallowRef, toRaw, watch } from 'vue'

import { type AnyStep, api, got, type Schema } from '@/api/client'
import { orRefusal } from '@/api/refusal'
import { useAsked } from '@/study/asked'
import { attempt, say } from '@/study/notices'
import { useStudy } from '@/study/store'
import { useSheets } from './sheets'
import { sureness, UNSURE } from './words'

export type Side = 'sheet' | 'study'
type Difference = Schema['DifferenceModel']
type Differing = Schema['Differing']

/** One difference, of one variable or of neighbours that differ alike. */
export interface Row {
  id: string
  ids: string[]
  /** Whether it is the first of its variables. */
  head: boolean
  /** Why the reading of these lines is unsure, where it is. */
  unsure: string
  difference: Difference
}

interface Decided {
  /** What was decided, under variable and difference; a side that changes afterwards is asked anew. */
  sides: Record<string, Side>
  /** Names of the document that mean a variable, and those of which somebody said that they do not. */
  matches: Record<string, string>
  apart: string[]
  added: string[]
  /** What some of those that are added are to be called instead. */
  called: Record<string, string>
}

const NOTHING: Decided = { sides: {}, matches: {}, apart: [], added: [], called: {} }

export function useCompare() {
  const study = useStudy()
  const sheets = useSheets()
  const decided = useSessionStorage<Decided>(
    () => `row-tag-compare-${study.id}-${sheets.id}`,
    NOTHING,
    { mergeDefaults: true },
  )

  const found = useAsked(
    'compared',
    () => [sheets.id, decided.value.matches, study.revision] as const,
    ([sheet_id, matches]) =>
      sheet_id
        ? got(api.POST('/api/studies/{study_id}/sheets/{sheet_id}/differences', { params: { path: { study_id: study.id, sheet_id } }, body: { matches } }))
        : null,
  )

  const differing = computed(() => (found.value?.differs ?? []).filter((each) => study.byId.has(each.variable)))
  const rows = computed<Row[]>(() => {
    const out: Row[] = []
    let run: Differing[] = []
    for (const each of [...differing.value, null]) {
      if (each && run.length && alike(each) !== '' && alike(each) === alike(run[0]!)) {
        run.push(each)
        continue
      }
      out.push(...rowsOf(run))
      run = each ? [each] : []
    }
    return out
  })
  const kinds = computed(() => {
    const out = new Map<string, number>()
    for (const row of rows.value) out.set(kindOf(row), (out.get(kindOf(row)) ?? 0) + row.ids.length)
    return out
  })

  // Effects: what taking each would do takes longer to tell, and is told of the rows in sight. ------

  const effects = shallowRef(new Map<string, Record<string, Schema['Change']>>())
  const wanted = new Set<string>()
  watch(found, () => (effects.value = new Map()))
  const askForEffects = useDebounceFn(async () => {
    const [revision, variables] = [study.revision, [...wanted].filter((id) => !effects.value.has(id))]
    wanted.clear()
    if (!variables.length) return
    const path = { study_id: study.id, sheet_id: sheets.id }
    const body = { variables, matches: decided.value.matches }
    const answer = await attempt(() => got(api.POST('/api/studies/{study_id}/sheets/{sheet_id}/effects', { params: { path }, body })))
    if (answer && revision === study.revision) effects.value = new Map([...effects.value, ...Object.entries(answer.effects)])
  }, 60)

  /** Asks for the effect of a row that has come in sight. */
  function want(row: Row): void {
    wanted.add(row.ids[0]!)
    void askForEffects()
  }
  const changeOf = (row: Row): Schema['Change'] | null => effects.value.get(row.ids[0]!)?.[row.difference.key] ?? null

  // Deciding -------------------------------------------------------------------------------------

  const under = (id: string, difference: Difference): string => JSON.stringify([id, difference.key, difference.sheet, difference.study])
  const sideOf = (row: Row): Side | null => decided.value.sides[under(row.ids[0]!, row.difference)] ?? null

  function decide(which: Row[], side: Side | null): void {
    const sides = { ...decided.value.sides }
    for (const row of which) {
      for (const id of row.ids) {
        if (side) sides[under(id, row.difference)] = side
        else delete sides[under(id, row.difference)]
      }
    }
    decided.value = { ...decided.value, sides }
  }

  /** Says which variable a name of the document means; with null, that it means none. */
  function mean(name: string, variable: string | null): void {
    const matches = { ...decided.value.matches }
    delete matches[name]
    if (variable) matches[name] = variable
    const apart = variable ? decided.value.apart.filter((each) => each !== name) : [...decided.value.apart, name]
    decided.value = { ...decided.value, matches, apart, added: decided.value.added.filter((each) => each !== name) }
  }

  function add(names: string[], on: boolean): void {
    const rest = decided.value.added.filter((each) => !names.includes(each))
    decided.value = { ...decided.value, added: on ? [...rest, ...names] : rest }
  }

  /** Says what a variable is to be called that is added; with nothing, as the document calls it. */
  function call(name: string, as: string): void {
    const called = { ...decided.value.called }
    if (as && as !== name) called[name] = as
    else delete called[name]
    decided.value = { ...decided.value, called }
    if (as && !decided.value.added.includes(name)) add([name], true)
  }

  // A study that begins with a document wants all of it, until somebody says otherwise.
  watch([found, () => sheets.beginning], () => {
    if (!found.value || sheets.beginning !== sheets.id) return
    sheets.beginning = ''
    add(found.value.only_sheet.map((each) => each.name), true)
  }, { immediate: true })

  const tally = computed(() => {
    const out = { sheet: 0, study: 0, undecided: 0 }
    for (const row of rows.value) out[sideOf(row) ?? 'undecided'] += row.ids.length
    return out
  })
  const added = computed(() => {
    const known = new Set(found.value?.only_sheet.map((each) => each.name))
    return decided.value.added.filter((each) => known.has(each))
  })

  // Taking ---------------------------------------------------------------------------------------

  const request = computed<Schema['TakeRequest'] | null>(() => {
    const chosen: Record<string, string[]> = {}
    for (const row of rows.value) if (sideOf(row) === 'sheet') for (const id of row.ids) (chosen[id] ??= []).push(row.difference.key)
    if (!Object.keys(chosen).length && !added.value.length) return null
    const called = Object.fromEntries(Object.entries(decided.value.called).filter(([name]) => added.value.includes(name)))
    return { chosen, added: added.value, called, matches: decided.value.matches }
  })
  const step = async (wanted: Schema['TakeRequest']): Promise<AnyStep> => {
    const path = { study_id: study.id, sheet_id: sheets.id }
    return (await got(api.POST('/api/studies/{study_id}/sheets/{sheet_id}/step', { params: { path }, body: wanted }))).step as AnyStep
  }
  const settled = refDebounced(request, 200)
  // A request is made for the differences that were found: it means nothing for what a step has left since.
  const current = computed(() => toRaw(settled.value) === request.value && found.value?.revision === study.revision)
  const looked = useAsked(
    'compare preview',
    () => [current.value ? settled.value : null, sheets.id, study.revision] as const,
    ([wanted]) => (wanted ? orRefusal(step(wanted).then(study.preview)) : null),
  )
  const preview = computed(() => looked.value?.[0] ?? null)
  /** Why it cannot be taken as it is. */
  const refused = computed(() => (request.value && looked.value?.[1]?.detail) || '')

  const taking = ref(false)
  /** Takes all that was decided for the document, as one step. */
  async function take(): Promise<void> {
    if (!request.value || taking.value) return
    taking.value = true
    const beginning = !study.variables.length
    try {
      const wanted = request.value
      const outcome = await attempt(() => step(wanted)).then((told) => told && study.take(told))
      if (outcome) say(outcome.sentence)
      if (outcome && beginning) sheets.comparing = false // there is nothing to compare: the tags are wanted
    } finally {
      taking.value = false
    }
  }

  /** All variables that only the document has as codebook text, to be changed as such before they are added. */
  const newText = (): Promise<Schema['NotationText'] | undefined> => {
    const path = { study_id: study.id, sheet_id: sheets.id }
    const { matches, called } = decided.value
    return attempt(() => got(api.POST('/api/studies/{study_id}/sheets/{sheet_id}/new-text', { params: { path }, body: { matches, called } })))
  }

  return {
    found, rows, kinds, decided, want, changeOf, sideOf, decide, mean, add, call, added, tally, request, preview, refused, take, taking, newText,
  }
}

/** What neighbours may have in common: all but their own words. Empty where there is nothing of that kind. */
const WORDS: ReadonlySet<string> = new Set(['name', 'label', 'question', 'note'])
function alike(each: Differing): string {
  const common = each.differences.filter((one) => !WORDS.has(one.key))
  return common.length ? JSON.stringify(common.map((one) => [one.key, one.sheet, one.study])) : ''
}

/** Rows of variables that differ alike: first what they have in common, then the words of each. */
function rowsOf(run: Differing[]): Row[] {
  const [first] = run
  if (!first) return []
  const row = (ids: string[], head: boolean, difference: Difference): Row => {
    const unsure = run.find((each) => ids.includes(each.variable) && each.certainty < UNSURE)
    return { id: `${ids[0]} ${difference.key}`, ids, head, unsure: unsure ? sureness(unsure) : '', difference }
  }
  const common = run.length > 1 ? first.differences.filter((one) => !WORDS.has(one.key)) : []
  const all = run.map((each) => each.variable)
  return [
    ...common.map((one, at) => row(all, at === 0, one)),
    ...run.flatMap((each) =>
      each.differences.filter((one) => !common.length || WORDS.has(one.key)).map((one, at) => row([each.variable], at === 0, one)),
    ),
  ]
}

export type Compare = ReturnType<typeof useCompare>

/** What kind of part a difference concerns: all of a code list together, the others by themselves. */
export function kindOf(row: Row): string {
  const { key, part } = row.difference
  if (/^(codes|list)$|^(code|label-of) /.test(key)) return 'code list'
  return /^(missing|reason-of) /.test(key) ? 'missing' : part
}
