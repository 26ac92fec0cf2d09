/** Typing into the chosen cell: a letter or Enter begins, Enter and Tab keep and move on, Escape leaves all as it was. */
import { computed, ref, watch } from 'vue'

import type { Address, Seen } from '@/session/types'
import { say } from '@/study/notices'
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

  /** Keys that were pressed before the chosen entry was there: none is lost, they mean what they would have meant. */
  const held: KeyboardEvent[] = []
  /** The entry that they are meant for. */
  let meantFor = ''
  const here = (): string => `${grid.at.value.row} ${grid.at.value.column}`
  const isThere = (): boolean => {
    const { row, column } = grid.at.value
    const tag = grid.tags.value[column]
    return tag !== undefined && grid.record(row) !== null && grid.cell(row, tag.id) !== null
  }
  const isPlain = (event: KeyboardEvent): boolean => !event.ctrlKey && !event.altKey && !event.metaKey
  const begins = (event: KeyboardEvent): boolean => isPlain(event) && (event.key.length === 1 || event.key === 'Enter' || event.key === 'F2')

  function replay(): void {
    if (held.length && here() !== meantFor) {
      held.length = 0 // somebody has gone elsewhere meanwhile: nothing may land where it was not meant
      say('What was typed before the rows were there was not taken.')
    }
    while (held.length && (typing.value || isThere())) {
      const event = held.shift()!
      if (!typing.value) {
        if (!onKey(event, true)) grid.onKey(event)
      } else if (MOVES[(event.shiftKey ? 'Shift+' : '') + event.key] || event.key === 'Escape') onKey(event, true)
      else if (event.key === 'Backspace') text.value = text.value.slice(0, -1)
      else if (event.key.length === 1) text.value += event.key
      meantFor = here()
    }
  }
  watch([() => study.tick, grid.at], replay, { flush: 'post' })

  /** Whether the key was for typing. */
  function onKey(event: KeyboardEvent, again = false): boolean {
    if (!again && isPlain(event) && (held.length || (!typing.value && begins(event) && !isThere()))) {
      if (!held.length) meantFor = here()
      held.push(event)
      event.preventDefault()
      return true
    }
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
    if (!begins(event)) return false
    if (!begin(event.key.length === 1 ? event.key : undefined)) return false
    event.preventDefault()
    return true
  }

  return { typing, text, begin, keep, keepAndMove, onKey }
}
