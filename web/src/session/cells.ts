/**
 * Entries by address: pages as they came, with what one means oneself laid over them until it is shown.
 *
 * A page that is older than what is there is dropped. What was touched since stays shown until the new page is there.
 */
import type { Address, CellText, Intention, Touched } from './types'

/** Records of one block. */
export const ROWS = 100

export interface Cell {
  text: string
  code: string
  label: string
  /** 0 valid, 1 coded missing, 2 blank, 3 unreadable, 4 unlisted */
  state: number
  /** Whether it is not confirmed yet. */
  pending: boolean
}

export interface PageColumn {
  id: string
  texts: string[]
  codes: string[]
  labels: string[]
  states: number[]
  index: number[]
}

export interface Page {
  revision: number
  records: number[]
  columns: PageColumn[]
}

interface Held {
  revision: number
  records: number[]
  column: PageColumn
}

interface Block {
  /** As of which revision the record numbers are. */
  revision: number
  records: number[]
  columns: Map<string, Held>
}

interface Laid {
  text: string
  intention: Intention
}

const KEPT = 60
const keyOf = (at: Address): string => `${at.record}:${at.variable}`

export class Cells {
  private blocks = new Map<number, Block>()
  private laid = new Map<string, Laid>()
  /** Revisions from which on a page must be for a variable to be shown as it is now. */
  private wanted = new Map<string, number>()
  private wantedAll = 0
  private wantedRecords = 0

  constructor(private readonly changed: () => void) {}

  clear(): void {
    this.blocks.clear()
    this.laid.clear()
    this.wanted.clear()
    this.wantedAll = this.wantedRecords = 0
    this.changed()
  }

  /** Says that a revision touched something. */
  note(revision: number, touched: Touched | 'all'): void {
    if (touched === 'all') this.wantedAll = Math.max(this.wantedAll, revision)
    else {
      for (const id of [...touched.tags, ...touched.entries]) this.wanted.set(id, Math.max(revision, this.wanted.get(id) ?? 0))
      if (touched.records) this.wantedRecords = Math.max(this.wantedRecords, revision)
    }
    this.changed()
  }

  /** Which of some variables have to be asked for in a block. */
  lacking(block: number, variables: readonly string[]): string[] {
    const held = this.blocks.get(block)
    if (!held || held.revision < Math.max(this.wantedAll, this.wantedRecords)) return [...variables]
    return variables.filter((id) => !this.fresh(held.columns.get(id), id))
  }

  /** Takes a page in, but for what is older than what is there. */
  accept(block: number, page: Page): void {
    const there = this.blocks.get(block)
    const held: Block = there ?? { revision: -1, records: [], columns: new Map() }
    if (page.revision >= held.revision) [held.revision, held.records] = [page.revision, page.records]
    for (const column of page.columns) {
      const known = held.columns.get(column.id)
      if (!known || known.revision <= page.revision) held.columns.set(column.id, { revision: page.revision, records: page.records, column })
    }
    this.blocks.delete(block)
    this.blocks.set(block, held)
    for (const oldest of this.blocks.keys()) {
      if (this.blocks.size <= KEPT) break
      this.blocks.delete(oldest)
    }
    this.settle(held)
    this.changed()
  }

  /** The number of the record in a row; null where it is not known yet. */
  record(row: number): number | null {
    return this.blocks.get(Math.floor(row / ROWS))?.records[row % ROWS] ?? null
  }

  /** The row of a record, where it is known; looked for near where it was. */
  rowOf(record: number, was: number): number | null {
    const here = Math.floor(was / ROWS)
    for (const block of [here, here - 1, here + 1, ...this.blocks.keys()]) {
      const at = this.blocks.get(block)?.records.indexOf(record) ?? -1
      if (at >= 0) return block * ROWS + at
    }
    return null
  }

  /** What is shown in a row of a variable. */
  cell(row: number, variable: string, record: number | null = this.record(row)): Cell | null {
    const laid = record === null ? undefined : this.laid.get(keyOf({ record, variable }))
    if (laid) return { text: laid.text, code: laid.text, label: '', state: laid.text.trim() ? 0 : 2, pending: true }
    const held = this.blocks.get(Math.floor(row / ROWS))?.columns.get(variable)
    const at = held?.column.index[row % ROWS]
    if (!held || at === undefined || held.records[row % ROWS] !== record) return null
    const { texts, codes, labels, states } = held.column
    return { text: texts[at]!, code: codes[at]!, label: labels[at]!, state: states[at]!, pending: false }
  }

  /** The revision that is shown of an entry: that of its page, or `now` where nothing touched it since. */
  shownAt(row: number, variable: string, now: number): number {
    const held = this.blocks.get(Math.floor(row / ROWS))?.columns.get(variable)
    return !held || this.fresh(held, variable) ? now : Math.min(now, held.revision)
  }

  /** Lays over what is shown what somebody means. */
  lay(intention: Intention): void {
    for (const cell of intention.cells) this.laid.set(keyOf(cell), { text: cell.text, intention })
    if (intention.cells.length) this.changed()
  }

  /** Takes off what was refused. */
  lift(intention: Intention): void {
    for (const [key, laid] of this.laid) if (laid.intention === intention) this.laid.delete(key)
    this.changed()
  }

  /** A record that was being made has its number now. */
  numbered(provisional: number, record: number): void {
    for (const [key, laid] of [...this.laid]) {
      const [number, variable] = [Number(key.split(':', 1)[0]), key.slice(key.indexOf(':') + 1)]
      if (number !== provisional) continue
      this.laid.delete(key)
      this.laid.set(keyOf({ record, variable }), laid)
    }
    this.changed()
  }

  /** What is laid over entries now, newest last. */
  overlay(): CellText[] {
    return [...this.laid].map(([key, laid]) => {
      const at = key.indexOf(':')
      return { record: Number(key.slice(0, at)), variable: key.slice(at + 1), text: laid.text }
    })
  }

  private fresh(held: Held | undefined, variable: string): boolean {
    return held !== undefined && held.revision >= Math.max(this.wantedAll, this.wanted.get(variable) ?? 0)
  }

  /** What is kept and shown by its page need not be laid over it any longer. */
  private settle(block: Block): void {
    const here = new Set(block.records)
    for (const [key, laid] of this.laid) {
      const at = key.indexOf(':')
      const held = block.columns.get(key.slice(at + 1))
      const { revision } = laid.intention
      if (held && revision !== null && held.revision >= revision && here.has(Number(key.slice(0, at)))) this.laid.delete(key)
    }
  }
}
