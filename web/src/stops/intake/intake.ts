/** A file on its way in: handed in, looked at, proposed, changed where wanted, brought in. */
import { computed, reactive, ref, shallowRef } from 'vue'

import { api, formOf, got, newId, type Schema } from '@/api/client'
import { useWork } from '@/study/jobs'
import { attempt } from '@/study/notices'

export type FileSeen = Schema['IntakeFile']
export type Column = Schema['ColumnProposal']
export type Settings = Schema['Settings']
export type Kind = Settings['kind']
/** What somebody chose for a column; only what is given counts. */
export type Choice = Partial<Schema['Choice']>

export const SEPARATORS: Record<string, string> = { ',': 'comma', ';': 'semicolon', '\t': 'tab', '|': 'bar', ' ': 'space' }
/** What changes where heads may stand, so that they are looked for anew. */
const LAYOUT: ReadonlySet<string> = new Set(['separator', 'runs', 'quote', 'comment', 'sheet', 'range'])
const ROWS: ReadonlySet<string> = new Set(['names_row', 'wordings_row', 'data_row', 'rows_below', 'blank_rows'])

export function useIntake() {
  const file = shallowRef<FileSeen | null>(null)
  const proposed = shallowRef<Schema['ProposalReport'] | null>(null)
  const choices = reactive<Record<number, Choice>>({})
  const selected = ref<ReadonlySet<number>>(new Set())
  /** Another sheet of the workbook that describes the columns, and whether it is to be kept beside the study. */
  const offer = shallowRef<Schema['CodebookOffer'] | null>(null)
  const keepOffer = ref(true)
  const handing = ref(false)
  const unread = ref(false)
  const work = useWork()
  let turn = 0
  const columns = computed<Column[]>(() => proposed.value?.columns ?? [])
  const kept = computed(() => columns.value.filter((each) => !choices[each.column]?.leave_out))

  async function handIn(chosen: File): Promise<void> {
    drop()
    handing.value = true
    const seen = await attempt(() => got(api.POST('/api/intake', formOf(chosen))))
    handing.value = false
    if (seen) await show(seen)
  }

  async function show(seen: FileSeen, keepChoices = false): Promise<void> {
    file.value = seen
    await propose(keepChoices)
  }

  /** Shows the file read another way; choices stay where only rows were marked anew. */
  async function readAnotherWay(change: Partial<Settings>): Promise<void> {
    if (!file.value) return
    const mine = ++turn
    const settings = { ...file.value.settings, ...change } as Settings
    const heads = Object.keys(change).some((part) => LAYOUT.has(part))
    const path = { file_id: file.value.id }
    const [seen] = await Promise.all([
      attempt(() => got(api.POST('/api/intake/{file_id}/picture', { params: { path }, body: { settings, heads } }))),
      work.cancel(),
    ])
    if (seen && mine === turn) await show(seen, Object.keys(change).every((part) => ROWS.has(part)))
  }

  /** Takes the file for another kind, as far as Row Tag can tell how that would be read. */
  async function takeFor(kind: Kind): Promise<void> {
    if (!file.value) return
    const path = { file_id: file.value.id }
    await work.cancel()
    const seen = await attempt(() => got(api.POST('/api/intake/{file_id}/guess', { params: { path }, body: { kind } })))
    if (seen) await show(seen)
  }

  /** Takes the widths of fixed columns from a text, a codebook file, or a study. */
  async function takeFields(source: Schema['FieldSource'] | File): Promise<boolean> {
    if (!file.value) return false
    const { id, settings } = file.value
    const seen = await attempt(async () => {
      let from = source
      if (from instanceof File) from = { kind: 'file', value: (await got(api.POST('/api/intake', formOf(from)))).id }
      const path = { file_id: id }
      return got(api.POST('/api/intake/{file_id}/fields', { params: { path }, body: { settings, source: from } }))
    })
    if (seen) await show(seen)
    return Boolean(seen)
  }

  async function propose(keepChoices: boolean): Promise<void> {
    if (!file.value) return
    const mine = ++turn
    proposed.value = null
    unread.value = false
    selected.value = new Set()
    if (!keepChoices) for (const column of Object.keys(choices)) delete choices[Number(column)]
    const { id, settings } = file.value
    offer.value = null
    const start = (): Promise<Schema['JobState']> =>
      got(api.POST('/api/intake/{file_id}/proposals', { params: { path: { file_id: id } }, body: { settings, heads: false } }))
    const done = await attempt(() => work.run(start()))
    if (mine !== turn) return
    unread.value = !done
    if (!done) return
    proposed.value = done.proposals
    void lookForCodebook(mine)
    const changed = Object.keys(choices).map(Number)
    if (changed.length) await look(changed)
  }

  async function lookForCodebook(mine: number): Promise<void> {
    if (!file.value || file.value.sheets.length < 2) return
    const { id, settings } = file.value
    const body = { settings, heads: false }
    const found = await attempt(() => got(api.POST('/api/intake/{file_id}/codebook', { params: { path: { file_id: id } }, body })))
    if (mine === turn) offer.value = found ?? null
  }

  /** Changes parts of some columns, and shows how their entries would read then. */
  async function choose(numbers: Iterable<number>, parts: Choice): Promise<void> {
    const wanted = [...numbers]
    for (const number of wanted) choices[number] = { ...choices[number], ...parts }
    if (Object.keys(parts).some((part) => part !== 'leave_out')) await look(wanted)
  }

  async function look(numbers: number[]): Promise<void> {
    if (!file.value) return
    const { id, settings } = file.value
    const asked = Object.fromEntries(numbers.map((number) => [number, choices[number] ?? {}]))
    const body = { settings, choices: asked } as Schema['ColumnsRequest']
    const seen = await attempt(() =>
      got(api.POST('/api/intake/{file_id}/columns', { params: { path: { file_id: id } }, body })),
    )
    if (!seen || !proposed.value) return
    const anew = new Map(seen.map((each) => [each.column, each]))
    const all = proposed.value.columns.map((each) => anew.get(each.column) ?? each)
    proposed.value = { ...proposed.value, columns: all }
  }

  async function select(numbers: Iterable<number>): Promise<void> {
    selected.value = new Set(numbers)
    if (selected.value.size === 1) await look([...selected.value])
  }

  /** Runs what brings the file into a study; true when it was. */
  async function run(start: (body: { id: string; settings: Settings; step_id: string }) => Promise<Schema['JobState']>): Promise<boolean> {
    if (!file.value) return false
    const { id, settings } = file.value
    const done = await attempt(() => work.run(start({ id, settings, step_id: newId() })))
    if (done) file.value = proposed.value = null
    return Boolean(done)
  }

  const bringIn = (study: string): Promise<boolean> =>
    run(({ id, settings, step_id }) => {
      const body = { study, step_id, settings, choices: { ...choices } } as Schema['BringInRequest']
      return got(api.POST('/api/intake/{file_id}/bring-in', { params: { path: { file_id: id } }, body }))
    })

  const addRecords = (study: string, more: Schema['More']): Promise<boolean> =>
    run(({ id, settings, step_id }) => {
      const body = { study, step_id, settings, more }
      return got(api.POST('/api/intake/{file_id}/more-records', { params: { path: { file_id: id } }, body }))
    })

  const putBeside = (study: string, more: Schema['MoreVariables']): Promise<boolean> =>
    run(({ id, settings, step_id }) => {
      const body = { study, step_id, settings, more }
      return got(api.POST('/api/intake/{file_id}/more-variables', { params: { path: { file_id: id } }, body }))
    })

  const correct = (study: string, how: Schema['Correction'], expected: number): Promise<boolean> =>
    run(({ id, settings }) => {
      const body = { study, settings, how, expected }
      return got(api.POST('/api/intake/{file_id}/correct', { params: { path: { file_id: id } }, body }))
    })

  function drop(): void {
    turn++
    void work.cancel()
    if (file.value) void api.DELETE('/api/intake/{file_id}', { params: { path: { file_id: file.value.id } } })
    file.value = null
    proposed.value = null
    selected.value = new Set()
  }

  return {
    file, proposed, offer, keepOffer, columns, choices, selected, handing, unread, kept, job: work.job, cancel: work.cancel,
    handIn, readAnotherWay, takeFor, takeFields, choose, select, bringIn, addRecords, putBeside, correct, drop,
  }
}

export type Intake = ReturnType<typeof useIntake>
