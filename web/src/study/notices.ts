/** Short messages at the foot of the window: what was refused, what was done. */
import { ref } from 'vue'

import { Refusal } from '@/api/client'

export interface Notice {
  text: string
  kind: 'done' | 'refused'
  details: string[]
}

export const notice = ref<Notice | null>(null)

export function say(text: string): void {
  notice.value = { text, kind: 'done', details: [] }
}

export function complain(error: unknown): void {
  const known = error instanceof Refusal
  notice.value = {
    text: known ? error.problem.detail : `Something went wrong on this page: ${String(error)}`,
    kind: 'refused',
    details: known ? error.problem.details : [],
  }
}

/** Runs something and says so when it fails; gives what it gave, or undefined. */
export async function attempt<T>(work: () => Promise<T>): Promise<T | undefined> {
  try {
    return await work()
  } catch (error) {
    complain(error)
    return undefined
  }
}
