/** Pages of entries, fetched block by block as they come into sight; old ones stay until new ones are there. */
import { reactive, watch } from 'vue'

import { Refusal } from '@/api/client'
import { complain } from '@/study/notices'
import { useStudy } from '@/study/store'

export const ROWS = 100
export const COLUMNS = 20

export interface Cell {
  text: string
  code: string
  label: string
  /** 0 valid, 1 coded missing, 2 blank, 3 unreadable, 4 unlisted */
  state: number
}

interface PageColumn {
  id: string
  texts: string[]
  codes: string[]
  labels: string[]
  states: number[]
  index: number[]
}

interface Block {
  revision: number
  records: number[]
  columns: Map<string, PageColumn>
}

const KEPT = 120

export function useBlocks(ids: () => string[]) {
  const study = useStudy()
  const blocks = reactive(new Map<string, Block>())
  const asked = new Set<string>()

  async function fetchBlock(rows: number, columns: number): Promise<void> {
    const key = `${rows}:${columns}`
    const revision = study.revision
    const tag = `${key}@${revision}`
    if (asked.has(tag) || blocks.get(key)?.revision === revision) return
    asked.add(tag)
    const wanted = ids().slice(columns * COLUMNS, (columns + 1) * COLUMNS)
    const query = `start=${rows * ROWS}&stop=${(rows + 1) * ROWS}&variables=${wanted.join(',')}`
    try {
      const reply = await fetch(`/api/studies/${study.id}/records?${query}`)
      const body = await reply.json()
      if (!reply.ok) throw new Refusal(body)
      blocks.delete(key)
      const columnsById = new Map<string, PageColumn>(body.columns.map((each: PageColumn) => [each.id, each]))
      blocks.set(key, { revision, records: body.records, columns: columnsById })
      for (const oldest of blocks.keys()) {
        if (blocks.size <= KEPT) break
        blocks.delete(oldest)
      }
    } catch (error) {
      complain(error)
    } finally {
      asked.delete(tag)
    }
  }

  /** Asks for all that is in sight: rows and columns from–to, both included. */
  function look(firstRow: number, lastRow: number, firstColumn: number, lastColumn: number): void {
    for (let row = Math.floor(firstRow / ROWS); row <= Math.floor(lastRow / ROWS); row++) {
      for (let column = Math.floor(firstColumn / COLUMNS); column <= Math.floor(lastColumn / COLUMNS); column++) {
        void fetchBlock(row, column)
      }
    }
  }

  function cell(row: number, column: number): Cell | null {
    const block = blocks.get(`${Math.floor(row / ROWS)}:${Math.floor(column / COLUMNS)}`)
    const found = block?.columns.get(ids()[column] ?? '')
    const at = found?.index[row % ROWS]
    if (!found || at === undefined) return null
    return { text: found.texts[at]!, code: found.codes[at]!, label: found.labels[at]!, state: found.states[at]! }
  }

  function record(row: number, column = 0): number | null {
    const prefix = Math.floor(row / ROWS)
    const block = blocks.get(`${prefix}:${Math.floor(column / COLUMNS)}`)
    return block?.records[row % ROWS] ?? null
  }

  watch(() => study.id, () => blocks.clear())
  return { look, cell, record }
}
