/** What is done with a range of entries: copied as it is shown, pasted over, filled down, cleared; each one step. */
import { nextTick } from 'vue'

import { type AnyStep, api, got, newId, type Schema, type TagStrip } from '@/api/client'
import { type Cell, type Page, ROWS } from '@/session/cells'
import type { CellText } from '@/session/types'
import { attempt, offer, say } from '@/study/notices'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import type { Grid, Range } from './grid'
import { shownAs } from './shown'
import { rowsOf, textOf } from './table'
import { useRecordView } from './view'

type How = Schema['SetBlock']['how']

/** Entries that a range may hold to be copied or set, and those that are shown set before the server has answered. */
const MOST = 250_000
const LAID = 2_000
/** Records asked for at once. */
const ASKED = 20 * ROWS

export function useBlock(grid: Grid) {
  const study = useStudy()
  const view = useRecordView()
  const tagsOf = ({ left, right }: Range): TagStrip[] => grid.tags.value.slice(left, right + 1)
  const sizeOf = ({ top, bottom, left, right }: Range): number => (bottom - top + 1) * (right - left + 1)

  /** Whether there are not too many entries in a range; says so where there are. */
  function fits(range: Range, what: string): boolean {
    const size = sizeOf(range)
    if (size > MOST) say(`At most ${count(MOST)} entries can be ${what} at once; the range holds ${count(size)}.`)
    return size <= MOST
  }

  /** The records and entries of rows, whether they are shown or have to be asked for. */
  async function entriesOf(top: number, bottom: number, tags: TagStrip[]): Promise<{ records: number[]; cells: Cell[][] }> {
    const [records, cells]: [number[], Cell[][]] = [[], []]
    for (let row = top; row <= bottom; row++) {
      const [record, here] = [grid.record(row), tags.map((tag) => grid.cell(row, tag.id))]
      if (record === null || here.includes(null)) break
      records.push(record)
      cells.push(here as Cell[])
    }
    for (let start = top + records.length; start <= bottom; start += ASKED) {
      const query = { start, stop: Math.min(bottom + 1, start + ASKED), variables: tags.map((tag) => tag.id).join(','), ...view.query }
      const path = { study_id: study.id }
      const page = (await got(api.GET('/api/studies/{study_id}/records', { params: { path, query } }))) as unknown as Page
      page.records.forEach((record, row) => {
        records.push(record)
        cells.push(page.columns.map(({ texts, codes, labels, states, index }) => {
          const at = index[row]!
          return { text: texts[at]!, code: codes[at]!, label: labels[at]!, state: states[at]!, pending: false }
        }))
      })
    }
    return { records, cells }
  }

  /** The records of some rows. */
  async function recordsOf(top: number, bottom: number): Promise<number[]> {
    const found = await attempt(() => entriesOf(top, bottom, grid.tags.value.slice(0, 1)))
    return (found?.records ?? []).map((record) => study.session!.numberOf(record))
  }

  /** Copies the range as it is shown: codes, labels or both. */
  async function copy(): Promise<void> {
    const range = grid.range.value
    if (!fits(range, 'copied')) return
    const tags = tagsOf(range)
    const found = await attempt(() => entriesOf(range.top, range.bottom, tags))
    if (!found) return
    const text = textOf(found.cells.map((row) => row.map((cell, at) => shownAs(cell, tags[at]!, study.show).join(' ').trim())))
    try {
      await navigator.clipboard.writeText(text)
      say(`Copied ${counted(sizeOf(range), 'entry', 'entries')}, as ${study.show === 'both' ? 'codes and labels' : study.show}.`)
    } catch {
      say('The browser keeps its clipboard to itself; allow it for this page in its settings.')
    }
  }

  /** Makes variables behind all others, then sets what asked for them. */
  async function setWider(more: number, then: () => Promise<void>): Promise<void> {
    const known = new Set(study.variables.map((each) => each.name.toLowerCase()))
    const names: string[] = []
    for (let number = study.variables.length + 1; names.length < more; number++) if (!known.has(`v${number}`)) names.push(`v${number}`)
    const variables = names.map((name) => ({ id: newId(), tag: { name } }))
    const made = await study.take({ do: 'add variables', format: 1, variables } as unknown as AnyStep)
    if (!made) return
    if (view.variables) view.variables = [...view.variables, ...variables.map((each) => each.id)]
    await nextTick()
    await then()
  }

  /** Sets entries from a row and column on, row by row; those past the last record make records of their own. */
  async function set(top: number, left: number, rows: string[][], how: How): Promise<void> {
    const width = rows[0]?.length ?? 0
    const tags = grid.tags.value.slice(left, left + width)
    if (!width || !rows.length) return
    if (tags.length < width) {
      const more = width - tags.length
      const said = `The block has ${counted(width, 'column')}, and from ${tags[0]!.name} on there are ${count(tags.length)}. Nothing is set.`
      return offer(said, { [`Make ${counted(more, 'new variable')} of the rest`]: () => void attempt(() => setWider(more, () => set(top, left, rows, how))) })
    }
    const range = { top, bottom: top + rows.length - 1, left, right: left + width - 1 }
    if (!fits(range, 'set')) return
    const there = Math.min(rows.length, Math.max(0, grid.rowCount.value - top))
    const shown = Array.from({ length: there }, (_, row) => grid.record(top + row))
    const cells: CellText[] = rows.length * width > LAID ? [] : shown.flatMap((record, row) =>
      record === null ? [] : tags.map((tag, at) => ({ record, variable: tag.id, text: rows[row]![at]! })))
    const entries = Object.fromEntries(tags.map((tag, at) => [tag.id, rows.map((row) => row[at]!)]))
    const outcome = await study.take(async () => {
      const known = shown.includes(null) ? (await entriesOf(top, top + there - 1, tags.slice(0, 1))).records : (shown as number[])
      const records = known.map((record) => study.session!.numberOf(record))
      return { do: 'set block', format: 1, records, more: rows.length - there, entries, how, labels: how === 'pasted' }
    }, cells)
    if (outcome) say(outcome.sentence)
  }

  /** Pastes a block at the range; a single entry goes into all of it. */
  async function paste(text: string): Promise<void> {
    const rows = rowsOf(text)
    const { top, bottom, left, right } = grid.range.value
    const single = rows.length === 1 && rows[0]!.length === 1 ? rows[0]![0]! : null
    const block = single === null ? rows : filled(bottom - top + 1, right - left + 1, single)
    await set(top, left, block, 'pasted')
  }

  async function clear(): Promise<void> {
    const range = grid.range.value
    const { top, bottom, left, right } = range
    if (fits(range, 'cleared')) await set(top, left, filled(bottom - top + 1, right - left + 1, ''), 'cleared')
  }

  /** The first row of the range into the others; of a single row, the one above it. */
  async function fillDown(): Promise<void> {
    const range = grid.range.value
    const first = range.top === range.bottom ? range.top - 1 : range.top
    if (first < 0 || !fits(range, 'filled')) return
    const found = await attempt(() => entriesOf(first, first, tagsOf(range)))
    const texts = found?.cells[0]?.map((cell) => cell.text)
    if (texts) await set(first + 1, range.left, Array.from({ length: range.bottom - first }, () => texts), 'filled down')
  }

  /** Whether the key was for the range. */
  function onKey(event: KeyboardEvent): boolean {
    const does = event.ctrlKey || event.metaKey ? { d: fillDown }[event.key] : { Delete: clear, Backspace: clear }[event.key]
    if (!does || event.altKey || event.shiftKey) return false
    event.preventDefault()
    void does()
    return true
  }

  return { copy, paste, recordsOf, onKey }
}

const filled = (height: number, width: number, text: string): string[][] =>
  Array.from({ length: height }, () => Array<string>(width).fill(text))
