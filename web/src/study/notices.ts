/** Short messages at the foot of the window: what was refused, what was done, and what can be done about it. */
import { ref } from 'vue'

import { Refusal } from '@/api/refusal'

export interface Notice {
  text: string
  kind: 'done' | 'refused'
  details: string[]
  /** What can be done about it; while there is something, the notice stays until it is decided. */
  choices: { word: string; go: () => void }[]
  /** Whether it says that the server does not answer. */
  lost?: boolean
}

export const notice = ref<Notice | null>(null)

export function say(text: string): void {
  notice.value = { text, kind: 'done', details: [], choices: [] }
}

/** Says what stands in the way of something, and offers ways on; it stays until one of them is taken. */
export function offer(text: string, ways: Record<string, () => void>): void {
  const choices = Object.entries({ ...ways, 'Leave it': () => undefined }).map(([word, go]) => ({ word, go }))
  notice.value = { text, kind: 'done', details: [], choices }
}

export function complain(error: unknown, choices: Notice['choices'] = []): void {
  const known = error instanceof Refusal
  notice.value = {
    text: known ? error.problem.detail : `Something went wrong on this page: ${String(error)}`,
    kind: 'refused',
    details: known ? [...(error.problem.details ?? [])] : [],
    choices,
    lost: known && error.lost,
  }
}

/** The server answers: what said that it does not has had its time, and what it offered to try again is tried. */
export function answered(): void {
  const said = notice.value
  if (!said?.lost) return
  notice.value = null
  said.choices[0]?.go()
}

/** Says what could not be fetched or sent, and lets it be tried again. */
export function complainOf(error: unknown, again: () => void): void {
  complain(error, error instanceof Refusal && !error.lost ? [] : [{ word: 'Try again', go: again }])
}

/** Runs something and says so when it fails; gives what it gave, or undefined. */
export async function attempt<T>(work: () => Promise<T>): Promise<T | undefined> {
  try {
    return await work()
  } catch (error) {
    if (error instanceof Refusal && error.lost) {
      return new Promise((done) => complainOf(error, () => void attempt(work).then(done)))
    }
    complain(error)
    return undefined
  }
}

/** Whatever fails without anybody waiting for it is said, too. */
export function hearOfErrors(): void {
  window.addEventListener('error', (event) => {
    // Sizes that change while they are looked at are looked at again with the next frame: nothing went wrong.
    if (!event.message.startsWith('ResizeObserver loop')) complain(event.error ?? event.message)
  })
  window.addEventListener('unhandledrejection', (event) => complain(event.reason))
}
