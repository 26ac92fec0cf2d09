/** Typing into the chosen cell: a letter or Enter begins, Enter and Tab keep and move on, Escape leaves all as it was. */
import { computed, ref } from 'vue'

import type { Address, Seen } from '@/session/types'
import { useStudy } from '@/study/store'
import type { Grid } from './grid'

/** What is being typed, where, and what was seen there when the first key was pressed. */
interface Typing extends Address {
  row: number
  text: string
  was: string
  seen: Seen
}

const MOVES: Record<string, [number, number]> = { Enter: [1, 0], Tab: [0, 1], 'Shift+Tab': [0, -1] }

export function useTyping(grid: Grid, focus: () => void) {
  const study = useStudy()
  const typing = ref<Typing | null>(null)
  const text = computed({
    get: () => typing.value?.text ?? '',
    set: (to) => typing.value && (typing.value = { ...typing.value, text: to }),
  })

  /** Begins with a text, or with what stands there. */
  function begin(first?: string): boolean {
    const { row, column } = grid.at.value
    const [tag, record] = [grid.tags.value[column], grid.record(row)]
    const cell = tag ? grid.cell(row, tag.id) : null
    if (!tag || record === null || !cell || !study.session) return false
    const seen = study.session.seen(row, tag.id)
    typing.value = { record, variable: tag.id, row, text: first ?? cell.text, was: cell.text, seen }
    return true
  }

  /** Keeps what was typed, if it is anything else; where it was begun, whatever has moved since. */
  function keep(): void {
    const typed = typing.value
    typing.value = null
    if (!typed || typed.text === typed.was) return
    const { record, variable, text: entry, seen } = typed
    void study.type({ record, variable, text: entry }, seen)
  }

  function keepAndMove(rows: number, columns: number): void {
    keep()
    grid.choose(grid.at.value.row + rows, grid.at.value.column + columns)
    focus()
  }

  /** Whether the key was for typing. */
  function onKey(event: KeyboardEvent): boolean {
    if (typing.value) {
      const move = MOVES[(event.shiftKey ? 'Shift+' : '') + event.key]
      if (event.ctrlKey && event.key === 'Enter') return false
      if (move && !event.ctrlKey) keepAndMove(...move)
      else if (event.key === 'Escape') {
        typing.value = null
        focus()
      } else return true
      event.preventDefault()
      return true
    }
    const plain = !event.ctrlKey && !event.altKey && !event.metaKey
    if (!plain || !(event.key.length === 1 || event.key === 'Enter' || event.key === 'F2')) return false
    if (!begin(event.key.length === 1 ? event.key : undefined)) return false
    event.preventDefault()
    return true
  }

  return { typing, text, begin, keep, keepAndMove, onKey }
}
