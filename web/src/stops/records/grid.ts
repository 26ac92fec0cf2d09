/** The grid of records: which rows and columns are in sight, which cell is chosen, and how keys move it. */
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, type Ref, ref, watch } from 'vue'

import { count } from '@/study/shown'
import { useStudy } from '@/study/store'
import { useBlocks } from './blocks'
import { columnWidth, frozenWidth, inOrder } from './columns'

/** Height of a row and of the heads, in pixels. */
export const ROW = 33
export const HEAD = 50
const PAGE = 15
const STATES = ['valid', 'coded missing', 'blank', 'unreadable', 'not allowed']

export interface Seen {
  first: number
  last: number
  said: string
  /** Where the chosen cell is. */
  variable: string | null
  record: number
}

interface Tell {
  /** The next stray behind this cell is wanted. */
  stray: (record: number, variable: string | null) => void
  /** What is in sight now, and what the chosen cell holds. */
  seen: (seen: Seen) => void
}

export function useGrid(scroller: Readonly<Ref<HTMLElement | null>>, tell: Tell) {
  const study = useStudy()
  const at = ref({ row: 0, column: 0 })

  const tags = computed(() => inOrder(study.variables))
  const frozen = computed(() => (tags.value[0]?.use === 'identifier' ? 1 : 0))
  const left = computed(() => frozenWidth(study.overview?.records ?? 0))
  const rowCount = computed(() => study.overview?.records ?? 0)
  const blocks = useBlocks(() => tags.value.map((tag) => tag.id))

  const rows = useVirtualizer(
    computed(() => ({
      count: rowCount.value, getScrollElement: () => scroller.value, estimateSize: () => ROW, overscan: 6,
      scrollPaddingStart: HEAD, paddingStart: HEAD,
    })),
  )
  const columns = useVirtualizer(
    computed(() => ({
      horizontal: true, count: tags.value.length, getScrollElement: () => scroller.value, overscan: 2,
      estimateSize: (index: number) => columnWidth(tags.value[index]!, study.show),
      paddingStart: left.value,
      scrollPaddingStart: left.value + (frozen.value && tags.value[0] ? columnWidth(tags.value[0], study.show) : 0),
      rangeExtractor: (range: { startIndex: number; endIndex: number; overscan: number; count: number }) => {
        const out = frozen.value ? [0] : []
        const from = Math.max(out.length, range.startIndex - range.overscan)
        const to = Math.min(range.count - 1, range.endIndex + range.overscan)
        for (let index = from; index <= to; index++) out.push(index)
        return out
      },
    })),
  )
  const shownRows = computed(() => rows.value.getVirtualItems())
  const shownColumns = computed(() => columns.value.getVirtualItems())

  const said = computed(() => {
    const tag = tags.value[at.value.column]
    const cell = blocks.cell(at.value.row, at.value.column)
    if (!tag || !cell) return ''
    const record = blocks.record(at.value.row, at.value.column) ?? at.value.row + 1
    const entry = cell.text.trim() ? ` · “${cell.text.slice(0, 60)}”` : ''
    return `record ${count(record)} · ${tag.name} ${tag.label}${entry} · ${STATES[cell.state]}`
  })

  watch(() => [study.show, tags.value], () => columns.value.measure())
  watch(
    [shownRows, shownColumns, () => study.revision, said, at],
    () => {
      const [top, bottom] = [shownRows.value[0], shownRows.value.at(-1)]
      const [start, end] = [shownColumns.value[frozen.value], shownColumns.value.at(-1)]
      if (!top || !bottom || !end) return
      if (frozen.value) blocks.look(top.index, bottom.index, 0, 0)
      blocks.look(top.index, bottom.index, start?.index ?? 0, end.index)
      const height = scroller.value?.clientHeight ?? 0
      const first = Math.floor((scroller.value?.scrollTop ?? 0) / ROW) + 1
      const last = Math.min(rowCount.value, first + Math.floor((height - HEAD) / ROW) - 1)
      tell.seen({ first, last, said: said.value, variable: tags.value[at.value.column]?.id ?? null, record: at.value.row + 1 })
    },
    { immediate: true },
  )

  function choose(row: number, column: number): void {
    at.value = {
      row: Math.min(Math.max(row, 0), rowCount.value - 1),
      column: Math.min(Math.max(column, 0), tags.value.length - 1),
    }
    rows.value.scrollToIndex(at.value.row, { align: 'auto' })
    if (at.value.column >= frozen.value) columns.value.scrollToIndex(at.value.column, { align: 'auto' })
  }

  function goTo(record: number, variable: string): void {
    const column = tags.value.findIndex((tag) => tag.id === variable)
    rows.value.scrollToIndex(Math.max(0, record - 1), { align: 'center' })
    void nextTick(() => {
      choose(record - 1, column)
      scroller.value?.focus()
    })
  }

  function nextStray(): void {
    const record = blocks.record(at.value.row, at.value.column) ?? 0
    tell.stray(record, tags.value[at.value.column]?.id ?? null)
  }

  function onKey(event: KeyboardEvent): void {
    const { row, column } = at.value
    const moves: Record<string, () => void> = {
      ArrowDown: () => choose(row + 1, column),
      ArrowUp: () => choose(row - 1, column),
      ArrowRight: () => choose(row, column + 1),
      ArrowLeft: () => choose(row, column - 1),
      PageDown: () => choose(row + PAGE, column),
      PageUp: () => choose(row - PAGE, column),
      Home: () => choose(event.ctrlKey ? 0 : row, 0),
      End: () => choose(event.ctrlKey ? rowCount.value - 1 : row, tags.value.length - 1),
      F8: nextStray,
    }
    const move = moves[event.key]
    if (!move || event.altKey) return
    event.preventDefault()
    move()
  }

  return { at, tags, frozen, left, rowCount, rows, columns, shownRows, shownColumns, blocks, choose, goTo, nextStray, onKey }
}
