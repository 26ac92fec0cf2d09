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

/** What was answered, or what was refused; where nothing was answered at all it is thrown. */
export async function orRefusal<T>(asked: Promise<T>): Promise<[T | null, Problem | null]> {
  try {
    return [await asked, null]
  } catch (error) {
    if (error instanceof Refusal && !error.lost) return [null, error.problem]
    throw error
  }
}
