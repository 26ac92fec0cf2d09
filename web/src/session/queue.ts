/**
 * The queue of intentions: sent in order, each with what its maker saw, rebased over one's own and over nothing else.
 *
 * What another did meanwhile is the server's to tell: an intention that meets it is refused, and nothing is lost.
 */
import type { AnyStep } from '@/api/client'
import { Refusal } from '@/api/refusal'
import type { CellText, Done, Intention, Later, Seen, Transport } from './types'

/** An intention that was given up because the one it was meant to follow was refused. */
export class GivenUp extends Error {}

/** An intention that was made, and what it comes to. */
export interface Sent {
  intention: Intention
  done: Promise<Done>
}

interface Waiting {
  intention: Intention
  /** The step that an undo was meant to take back, while that was still on its way. */
  after: Intention | null
  done: (done: Done) => void
  failed: (error: unknown) => void
}

interface Tell {
  /** What waits, or what lies over what is shown, is otherwise. */
  changed: () => void
  kept: (intention: Intention, done: Done) => void
  refused: (intention: Intention, error: unknown) => void
  /** The server does not answer; what waits stays, and `again` sends it once more. */
  stalled: (error: Refusal, again: () => void) => void
}

const REMEMBERED = 2000

export class Queue {
  private waiting: Waiting[] = []
  private own: Intention[] = []
  private sending = false

  constructor(
    private readonly transport: Transport,
    private readonly tell: Tell,
    private readonly newId: () => string,
  ) {}

  get length(): number {
    return this.waiting.length
  }

  /** What is seen by somebody to whom a revision is shown. */
  seen(base: number): Seen {
    const kept = this.own.filter((each) => each.revision !== null && each.revision > base)
    return { base, over: [...kept, ...this.waiting.map((each) => each.intention)] }
  }

  /** Means a step. One that can be told only when it is sent is given as a function. */
  step(step: AnyStep | Later, seen: Seen, cells: CellText[] = []): Sent {
    return this.intend({ id: this.newId(), seen, does: { step }, cells, revision: null })
  }

  move(move: 'undo' | 'redo' | 'go', seen: Seen, state: number | null = null): Sent {
    return this.intend({ id: this.newId(), seen, does: { move, state }, cells: [], revision: null })
  }

  /** Sends what waits once more. */
  again(): void {
    void this.send()
  }

  private intend(intention: Intention): Sent {
    const done = new Promise<Done>((done, failed) => {
      const last = this.waiting.at(-1)?.intention ?? null
      this.waiting.push({ intention, after: 'move' in intention.does ? last : null, done, failed })
    })
    this.tell.changed()
    void this.send()
    return { intention, done }
  }

  private async send(): Promise<void> {
    if (this.sending) return
    this.sending = true
    try {
      for (let next = this.waiting[0]; next; next = this.waiting[0]) {
        if (!(await this.sendOne(next))) return
      }
    } finally {
      this.sending = false
    }
  }

  /** Whether the next one can be sent. */
  private async sendOne(item: Waiting): Promise<boolean> {
    const { intention } = item
    let done: Done
    try {
      done = await this.sent(intention)
    } catch (error) {
      if (error instanceof Refusal && error.lost) {
        this.tell.stalled(error, () => this.again())
        return false
      }
      this.waiting.shift()
      this.told(() => this.tell.refused(intention, error))
      item.failed(error)
      this.giveUp(intention)
      this.tell.changed()
      return true
    }
    // It is kept: whatever goes wrong with telling of it makes it no refused one, and holds up none that waits.
    intention.revision = done.revision
    this.own = [...this.own, intention].slice(-REMEMBERED)
    this.waiting.shift()
    item.done(done)
    this.told(() => this.tell.kept(intention, done))
    this.told(this.tell.changed)
    return true
  }

  private async sent({ id, seen, does }: Intention): Promise<Done> {
    const { base, over } = rebased(seen)
    if ('move' in does) return this.transport.move(does.move, base, over, does.state)
    return this.transport.step(id, base, over, typeof does.step === 'function' ? await does.step() : does.step)
  }

  /** Tells somebody; what they stumble over is told to whoever looks for it, and is nobody's refusal. */
  private told(tell: () => void): void {
    try {
      tell()
    } catch (error) {
      console.error(error)
    }
  }

  /** An undo of what was refused has nothing left to take back. */
  private giveUp(refused: Intention): void {
    const meant = this.waiting.filter((each) => each.after === refused)
    this.waiting = this.waiting.filter((each) => each.after !== refused)
    for (const each of meant) {
      this.tell.refused(each.intention, new GivenUp())
      each.failed(new GivenUp())
    }
  }
}

/**
 * What was seen, as the server needs it: the revision up to which nothing but one's own was done, and own steps that
 * came after something else.
 */
export function rebased(seen: Seen): { base: number; over: string[] } {
  let base = seen.base
  const over: string[] = []
  for (const each of seen.over) {
    if (each.revision === null || each.revision <= base) continue
    if (each.revision === base + 1 || 'move' in each.does) base = each.revision // a move is kept only over one's own
    else over.push(each.id)
  }
  return { base, over }
}
