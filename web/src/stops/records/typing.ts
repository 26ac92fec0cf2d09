/** Typing into the chosen cell: a letter or Enter begins, Enter and Tab keep and move on, Escape leaves all as it was. */
import { ref } from 'vue'

import { useStudy } from '@/study/store'

interface Where {
  /** The chosen cell: its variable, record number and entry; null where it is not here yet. */
  cell: () => { variable: string; record: number; text: string } | null
  /** Goes on by so many rows and columns. */
  move: (rows: number, columns: number) => void
}

const MOVES: Record<string, [number, number]> = { Enter: [1, 0], Tab: [0, 1], 'Shift+Tab': [0, -1] }

export function useTyping(where: Where) {
  const study = useStudy()
  const text = ref<string | null>(null)

  async function keep(rows: number, columns: number): Promise<void> {
    const cell = where.cell()
    const typed = text.value
    text.value = null
    where.move(rows, columns)
    if (!cell || typed === null || typed === cell.text) return
    const entries = { [cell.record]: typed }
    await study.take({ do: 'set entries', format: 1, variable: cell.variable, entries })
  }

  /** Whether the key was for typing. */
  function onKey(event: KeyboardEvent): boolean {
    if (text.value !== null) {
      const move = MOVES[(event.shiftKey ? 'Shift+' : '') + event.key]
      if (move && !event.ctrlKey) void keep(...move)
      else if (event.key === 'Escape') text.value = null
      else return true
      event.preventDefault()
      return true
    }
    const plain = !event.ctrlKey && !event.altKey && !event.metaKey
    if (!plain || !where.cell() || !(event.key.length === 1 || event.key === 'Enter' || event.key === 'F2')) return false
    text.value = event.key.length === 1 ? event.key : where.cell()!.text
    event.preventDefault()
    return true
  }

  return { text, keep, onKey }
}
