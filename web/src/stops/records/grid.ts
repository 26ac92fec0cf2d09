/** The grid of records: what is in sight, which entry is chosen (by record and variable), and how keys move that. */
import { computed, nextTick, type Ref, ref, watch } from 'vue'

import type { TagStrip } from '@/api/client'
import { useVirtual } from '@/parts/virtual'
import type { Cell } from '@/session/cells'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { columnWidth, frozenWidth, inOrder } from './columns'
import { usePages } from './pages'
import { wordsOf } from './shown'
import { useRecordView } from './view'

/** Height of a row and of the heads, in pixels. */
export const ROW = 33
export const HEAD = 56
const PAGE = 15

export interface Seen {
  first: number
  last: number
  said: string
  /** Where the chosen cell is. */
  variable: string | null
  row: number
}

/** The chosen entry: its variable and record by id, and the row where that was last. */
interface Chosen {
  variable: string
  record: number | null
  row: number
}

/** A range of entries, its ends included. */
export interface Range {
  top: number
  bottom: number
  left: number
  right: number
}

export function useGrid(scroller: Readonly<Ref<HTMLElement | null>>, tell: (seen: Seen) => void) {
  const study = useStudy()
  const pages = usePages()
  const chosen = ref<Chosen>({ variable: '', record: null, row: 0 })

  const view = useRecordView()
  const tags = computed(() => {
    const picked = view.variables?.flatMap((id) => study.byId.get(id) ?? [])
    if (!picked) return inOrder(study.variables)
    const identifier = study.variables.find((tag) => tag.use === 'identifier')
    return inOrder(identifier && !picked.includes(identifier) ? [identifier, ...picked] : picked)
  })
  const frozen = computed(() => (tags.value[0]?.use === 'identifier' ? 1 : 0))
  const left = computed(() => frozenWidth(study.overview?.records ?? 0))
  const kept = computed(() => view.rows)
  /** Records that are only being made stand below the others already. */
  const coming = computed(() => (void study.tick, study.session?.coming() ?? []))
  const rowCount = computed(() => kept.value + coming.value.length)

  const rows = useVirtual(scroller, () => ({ count: rowCount.value, size: ROW, before: HEAD }))
  const width = (tag: TagStrip | undefined): number => (tag ? (view.widths[tag.id] ?? columnWidth(tag, study.show)) : 0)
  const columns = useVirtual(scroller, () => ({
    count: tags.value.length, size: (index) => width(tags.value[index]), across: true, overscan: 2, frozen: frozen.value,
    before: left.value, covered: left.value + (frozen.value ? width(tags.value[0]) : 0),
  }))

  const record = (row: number): number | null =>
    row < kept.value ? (void study.tick, study.session?.cells.record(row) ?? null) : (coming.value[row - kept.value] ?? null)
  function cell(row: number, variable: string): Cell | null {
    void study.tick
    const number = record(row)
    const found = study.session?.cells.cell(row, variable, number) ?? null
    return found ?? (number !== null && number < 0 ? { text: '', code: '', label: '', state: 2, pending: true } : null)
  }

  const column = computed(() => Math.max(0, tags.value.findIndex((tag) => tag.id === chosen.value.variable)))
  const at = computed(() => ({ row: chosen.value.row, column: column.value }))
  /** Where a range was begun; the chosen entry is its other corner. */
  const corner = ref<{ variable: string; row: number } | null>(null)
  const range = computed<Range>(() => {
    const { row, column: here } = at.value
    const from = corner.value ? tags.value.findIndex((tag) => tag.id === corner.value!.variable) : here
    const [there, line] = [from < 0 ? here : from, Math.min(corner.value?.row ?? row, rowCount.value - 1)]
    return { top: Math.min(row, line), bottom: Math.max(row, line), left: Math.min(here, there), right: Math.max(here, there) }
  })
  const inRange = (row: number, index: number): boolean => {
    const { top, bottom, left: first, right } = range.value
    return corner.value !== null && top <= row && row <= bottom && first <= index && index <= right
  }
  /** The record of the chosen row is known only once its page is there; it is followed when it stands elsewhere. */
  watch([() => study.tick, rowCount], () => {
    const { record: was, row } = chosen.value
    if (was === null) chosen.value = { ...chosen.value, record: record(row) }
    else if (record(row) !== was) {
      const number = study.session?.numberOf(was) ?? was
      const elsewhere = study.session?.cells.rowOf(number, row) ?? null
      if (elsewhere !== null) chosen.value = { ...chosen.value, record: number, row: elsewhere }
    }
  })

  const said = computed(() => {
    if (corner.value) {
      const { top, bottom, left: first, right } = range.value
      const over = `${counted(bottom - top + 1, 'record')} × ${counted(right - first + 1, 'variable')}`
      return `${over} chosen · Ctrl C copies, Ctrl V pastes over, Ctrl D fills down, Delete clears`
    }
    const tag = tags.value[at.value.column]
    const here = tag ? cell(at.value.row, tag.id) : null
    if (!tag || !here) return ''
    const number = record(at.value.row) ?? 0
    const entry = here.text.trim() ? ` · “${here.text.slice(0, 60)}”` : ''
    const state = here.pending ? 'being kept' : wordsOf(here)
    return `${number > 0 ? `record ${count(number)}` : 'new record'} · ${tag.name} ${tag.label}${entry} · ${state}`
  })

  watch(() => [study.show, tags.value, view.widths], () => columns.measure(), { deep: true })
  watch(
    [rows.shown, columns.shown, () => study.tick, said, at],
    () => {
      const [top, bottom] = [rows.shown.value[0], rows.shown.value.at(-1)]
      if (!top || !bottom || !columns.shown.value.length) return
      const ids = columns.shown.value.map((each) => tags.value[each.index]?.id).filter((id) => id !== undefined)
      pages.look(top.index, bottom.index, ids)
      const height = scroller.value?.clientHeight ?? 0
      const first = Math.floor(rows.offset() / ROW) + 1
      const last = Math.min(rowCount.value, first + Math.floor((height - HEAD) / ROW) - 1)
      tell({ first, last, said: said.value, variable: tags.value[at.value.column]?.id ?? null, row: at.value.row })
    },
    { immediate: true },
  )

  /** Chooses an entry; with `extending` the range reaches from where it was begun to there. */
  function choose(row: number, index: number, extending = false): void {
    const to = Math.min(Math.max(row, 0), rowCount.value - 1)
    const tag = tags.value[Math.min(Math.max(index, 0), tags.value.length - 1)]
    if (!tag) return
    if (!extending) corner.value = null
    else corner.value ??= { variable: tags.value[at.value.column]!.id, row: at.value.row }
    chosen.value = { variable: tag.id, record: record(to), row: to }
    rows.show(to)
    if (column.value >= frozen.value) columns.show(column.value)
  }

  /** Goes to a row, and a variable. */
  function goTo(row: number, variable: string): void {
    rows.show(Math.max(0, row), 'center')
    void nextTick(() => {
      choose(row, tags.value.findIndex((tag) => tag.id === variable))
      scroller.value?.focus()
    })
  }

  function onKey(event: KeyboardEvent): void {
    const { row, column: index } = at.value
    const moves: Record<string, [number, number]> = {
      ArrowDown: [event.ctrlKey ? rowCount.value - 1 : row + 1, index],
      ArrowUp: [event.ctrlKey ? 0 : row - 1, index],
      ArrowRight: [row, event.ctrlKey ? tags.value.length - 1 : index + 1],
      ArrowLeft: [row, event.ctrlKey ? 0 : index - 1],
      PageDown: [row + PAGE, index],
      PageUp: [row - PAGE, index],
      Home: [event.ctrlKey ? 0 : row, 0],
      End: [event.ctrlKey ? rowCount.value - 1 : row, tags.value.length - 1],
    }
    const move = moves[event.key]
    if (!move || event.altKey) return
    event.preventDefault()
    choose(...move, event.shiftKey)
  }

  return { at, tags, frozen, left, rowCount, range, inRange, rows, columns, record, cell, choose, goTo, onKey }
}

export type Grid = ReturnType<typeof useGrid>
