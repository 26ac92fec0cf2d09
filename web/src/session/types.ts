/** What the session of a study talks about. */
import type { AnyStep, Schema } from '@/api/client'

export type Touched = Schema['TouchedParts']

/** What somebody saw when they began: a revision, and their own intentions that lay over it. */
export interface Seen {
  base: number
  over: readonly Intention[]
}

/** One entry: of a record, or of one that is only being made (a negative number), and a variable, by ids. */
export interface Address {
  record: number
  variable: string
}

export interface CellText extends Address {
  text: string
}

/** A step that can be told only when its turn comes: what it needs is known, or asked of the server, only then. */
export type Later = () => AnyStep | Promise<AnyStep>

/** Something that somebody means to do: held from the first key on until the server has answered. */
export interface Intention {
  readonly id: string
  readonly seen: Seen
  readonly does: { step: AnyStep | Later } | { move: 'undo' | 'redo' | 'go'; state: number | null }
  /** What it lays over what is shown. */
  readonly cells: readonly CellText[]
  /** The revision it made, once it is kept. */
  revision: number | null
}

export interface Done {
  revision: number
  outcome: Schema['StepOutcome'] | null
}

/** The way to the server. */
export interface Transport {
  step: (id: string, base: number, over: string[], step: AnyStep) => Promise<Done>
  move: (to: 'undo' | 'redo' | 'go', base: number, over: string[], state: number | null) => Promise<Done>
}
