/** One session of a study in a window: what is shown, what is meant, and what others did, in plain TypeScript. */
import type { AnyStep, Overview, TagStrip } from '@/api/client'
import type { Refusal } from '@/api/refusal'
import { Cells } from './cells'
import { Queue } from './queue'
import { type Looks, Stamps } from './stamps'
import type { CellText, Done, Intention, Later, Seen, Transport } from './types'

export interface Server extends Transport {
  /** The study at its head; of whoever names a revision only the tags that changed since. */
  overview: (known: number | undefined) => Promise<Overview>
}

export interface Shows {
  /** Something that is shown is otherwise. */
  changed: () => void
  /** Something could not be fetched, and can be asked for again. */
  failed: (error: unknown, again: () => void) => void
  stalled: (error: Refusal, again: () => void) => void
}

export class Session {
  readonly queue: Queue
  readonly cells: Cells
  readonly stamps = new Stamps()
  overview: Overview | null = null
  tags = new Map<string, TagStrip>()
  private newest = 0
  private refreshing: Promise<void> | null = null
  private open = true
  private whole = false
  private anyway = false
  private lastProvisional = 0
  private provisional = new Map<number, { intention: Intention; record: number | null }>()

  constructor(private readonly server: Server, private readonly shows: Shows, newId: () => string) {
    this.cells = new Cells(shows.changed)
    this.queue = new Queue(
      server,
      {
        changed: shows.changed,
        kept: (intention, done) => this.kept(intention, done),
        refused: (intention) => this.refused(intention),
        stalled: shows.stalled,
      },
      newId,
    )
  }

  get revision(): number {
    return this.overview?.revision ?? 0
  }

  /** Nothing that comes from now on concerns anybody. */
  close(): void {
    this.open = false
  }

  /** What is seen now, or of one entry. */
  seen(row?: number, variable?: string): Seen {
    return this.queue.seen(row === undefined || variable === undefined ? this.revision : this.cells.shownAt(row, variable, this.revision))
  }

  /** Means a step, which may lay entries over what is shown. */
  take(step: AnyStep | Later, seen: Seen = this.seen(), cells: CellText[] = []): Promise<Done> {
    const { intention, done } = this.queue.step(step, seen, cells)
    if (cells.length) this.cells.lay(intention)
    return done
  }

  /** Types one entry, as it was seen when its first key was pressed; a label stands for its code. */
  type(cell: CellText, seen: Seen): Promise<Done> {
    const step = (): AnyStep =>
      ({ do: 'set entries', format: 1, variable: cell.variable, entries: { [this.numberOf(cell.record)]: cell.text }, labels: true })
    return this.take(step, seen, [cell])
  }

  /** Begins a blank record; gives the number under which it goes until it has its own. */
  addRecord(): { record: number; done: Promise<Done> } {
    const record = --this.lastProvisional
    const { intention, done } = this.queue.step({ do: 'add blank records', count: 1 } as AnyStep, this.seen())
    this.provisional.set(record, { intention, record: null })
    this.shows.changed()
    return { record, done }
  }

  /** Records that are being made and are not among those shown, in order. */
  coming(): number[] {
    const shown = this.revision
    return [...this.provisional]
      .filter(([, each]) => each.intention.revision === null || each.intention.revision > shown)
      .map(([record]) => record)
  }

  /** The number of a record, once it has one. */
  numberOf(record: number): number {
    return record > 0 ? record : (this.provisional.get(record)?.record ?? record)
  }

  move(to: 'undo' | 'redo' | 'go', state: number | null = null): Promise<Done> {
    return this.queue.move(to, this.seen(), state).done
  }

  /** Hears that there is a newer revision; what it touched the overview says. */
  heard(revision: number): void {
    this.newest = Math.max(this.newest, revision)
    if (revision > this.revision) void this.refresh()
  }

  stamp(looks: Looks): number {
    return this.stamps.of(looks)
  }

  /** Fetches the overview until it is as new as what was heard of. One at a time; an older answer is dropped. */
  refresh(anyway = false): Promise<void> {
    this.anyway ||= anyway // of one on its way nobody knows how old its answer is
    this.refreshing ??= this.fetch().finally(() => (this.refreshing = null))
    return this.refreshing
  }

  private async fetch(): Promise<void> {
    while (this.open && (this.anyway || !this.overview || this.whole || this.revision < this.newest)) {
      this.anyway = false
      const known = this.whole ? undefined : this.overview?.revision
      let found: Overview
      try {
        found = await this.server.overview(known)
      } catch (error) {
        if (this.open) this.shows.failed(error, () => void this.refresh(true))
        return
      }
      if (this.open) this.accept(found)
    }
  }

  private accept(found: Overview): void {
    if (found.revision < this.revision) return // older than what is shown
    const came = new Map(found.variables.map((each) => [each.id, each]))
    const tags = found.order.map((id) => came.get(id) ?? this.tags.get(id))
    this.whole = tags.some((each) => each === undefined)
    if (this.whole) return // it says what changed of something that is not here: all of it is asked for
    this.tags = new Map(tags.map((each) => [each!.id, each!]))
    if (this.overview) this.note(found)
    this.overview = found
    this.newest = Math.max(this.newest, found.revision)
    this.shows.changed()
  }

  /** What is otherwise since what was shown before: told by the overview alone, so that nothing is told twice, out of its order, or missed. */
  private note({ revision, touched }: Overview): void {
    this.stamps.note(revision, touched ?? 'all')
    this.cells.note(revision, touched ?? 'all')
  }

  private kept(intention: Intention, done: Done): void {
    for (const [provisional, each] of this.provisional) {
      if (each.intention === intention && done.outcome) {
        each.record = done.outcome.account.arrived
        this.cells.numbered(provisional, each.record)
      }
    }
    this.heard(done.revision)
  }

  private refused(intention: Intention): void {
    this.cells.lift(intention)
    for (const [record, each] of this.provisional) if (each.intention === intention) this.provisional.delete(record)
    this.shows.changed()
  }
}
