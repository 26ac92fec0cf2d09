/** What the server refused, with its sentence; or that it did not answer. */
import type { components } from './schema.gen'

export type Problem = components['schemas']['Problem']

export class Refusal extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }

  /** Whether nothing was answered at all, so that asking again does no harm and may help. */
  get lost(): boolean {
    return this.problem.status === 0
  }
}
