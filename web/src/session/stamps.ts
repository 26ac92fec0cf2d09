/** Which revision last touched what: only what depends on something that was touched is asked for again. */
import type { Touched } from './types'

/** What something that is shown depends on; variables by id, or all of them. */
export interface Looks {
  tags?: readonly string[] | 'all'
  entries?: readonly string[] | 'all'
  shelves?: readonly string[]
  order?: boolean
  records?: boolean
}

export class Stamps {
  private tags = new Map<string, number>()
  private entries = new Map<string, number>()
  private shelves = new Map<string, number>()
  private anyTag = 0
  private anyEntry = 0
  private order = 0
  private records = 0
  private everything = 0
  /** How often anything was noted. */
  version = 0

  /** Revisions are noted in their order; what was touched, or that everything may be otherwise. */
  note(revision: number, touched: Touched | 'all'): void {
    this.version++
    if (touched === 'all') {
      this.everything = revision
      return
    }
    for (const id of touched.tags) this.tags.set(id, revision)
    for (const id of touched.entries) this.entries.set(id, revision)
    for (const shelf of touched.shelves) this.shelves.set(shelf, revision)
    if (touched.tags.length) this.anyTag = revision
    if (touched.entries.length) this.anyEntry = revision
    if (touched.order) this.order = revision
    if (touched.records) this.records = revision
  }

  /** The newest revision that touched what is looked at; the same stamp, the same answer. */
  of(looks: Looks): number {
    const newest = (ids: readonly string[] | 'all' | undefined, known: Map<string, number>, any: number): number =>
      ids === 'all' ? any : Math.max(0, ...(ids ?? []).map((id) => known.get(id) ?? 0))
    return Math.max(
      this.everything,
      newest(looks.tags, this.tags, this.anyTag),
      newest(looks.entries, this.entries, this.anyEntry),
      newest(looks.shelves, this.shelves, 0),
      looks.order ? this.order : 0,
      looks.records ? this.records : 0,
    )
  }
}
