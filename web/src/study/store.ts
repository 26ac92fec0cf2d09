/** The study that is open: its session, as the components see it, and how entries are shown. */
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'

import { type AnyStep, api, got, newId, type Overview, type Schema, type TagStrip } from '@/api/client'
import { Refusal } from '@/api/refusal'
import { GivenUp } from '@/session/queue'
import { Session } from '@/session/session'
import type { Looks } from '@/session/stamps'
import type { CellText, Done, Later, Seen } from '@/session/types'
import { listen } from './events'
import { complain, complainOf, notice } from './notices'
import { serverOf } from './server'

export type Show = 'codes' | 'labels' | 'both'
type Outcome = Schema['StepOutcome']

export const useStudy = defineStore('study', () => {
  const id = ref('')
  const session = shallowRef<Session | null>(null)
  /** Counts what happens to entries and to what waits; the rest is told by the values themselves. */
  const tick = ref(0)
  const overview = shallowRef<Overview | null>(null)
  const byId = shallowRef(new Map<string, TagStrip>())
  const stamps = ref(0)
  const busy = ref(0)
  /** Why the study cannot be opened, where it cannot. */
  const refused = ref('')
  const show = useLocalStorage<Show>('row-tag-show', 'both')
  const checked = ref(0)
  let stopListening: () => void = () => undefined

  const revision = computed(() => overview.value?.revision ?? 0)
  const variables = computed<TagStrip[]>(() => [...byId.value.values()])

  /** What the session says now. */
  function changed(mine: Session): void {
    if (session.value !== mine) return
    overview.value = mine.overview
    byId.value = mine.tags
    stamps.value = mine.stamps.version
    busy.value = mine.queue.length
    tick.value++
  }

  async function open(study: string): Promise<void> {
    close()
    id.value = study
    const mine: Session = new Session(
      serverOf(study),
      {
        changed: () => changed(mine),
        failed: (error, again) => {
          if (mine.overview || !(error instanceof Refusal) || error.lost) complainOf(error, again)
          else refused.value = error.problem.detail
        },
        stalled: (error, again) => complain(error, [{ word: 'Try again', go: again }]),
      },
      newId,
    )
    session.value = mine
    await mine.refresh(true)
    if (session.value !== mine) return
    stopListening = listen(study, {
      revision: (told) => mine.heard(told.revision),
      checked: (told) => {
        checked.value = told.revision
        void mine.refresh(true) // how many findings there are is told with the overview
      },
      missed: () => {
        mine.queue.again()
        void mine.refresh(true)
      },
    })
  }

  function close(): void {
    stopListening()
    session.value?.close()
    session.value = null
    overview.value = null
    refused.value = ''
    byId.value = new Map()
  }

  /** The revision that last touched what is looked at: part of the key of whatever depends on it. */
  const stamp = (looks: Looks): number => (void stamps.value, session.value?.stamp(looks) ?? 0)

  async function refresh(): Promise<void> {
    await session.value?.refresh(true)
  }

  /** What came of an intention; when it is refused that is said, and it can be done anyway. */
  async function said(sent: Promise<Done>, again: () => void, typed = ''): Promise<Outcome | undefined> {
    try {
      const done = await sent
      await session.value?.refresh()
      return done.outcome ?? undefined
    } catch (error) {
      if (error instanceof GivenUp) return undefined
      const met = error instanceof Refusal && error.problem.status === 409
      complain(error, met ? [{ word: 'Do mine anyway', go: again }, { word: 'Leave it as it is', go: () => (notice.value = null) }] : [])
      if (typed && notice.value) notice.value.details.unshift(`You typed “${typed}”.`)
      return undefined
    }
  }

  /** Sends a step; gives what it came to, or undefined when it was refused (and said so). */
  function take(step: AnyStep | Later, cells: CellText[] = []): Promise<Outcome | undefined> {
    return said(session.value!.take(step, undefined, cells), () => void take(step, cells))
  }

  /** Sends a step; throws the refusal, for those who show it in place. */
  async function tryStep(step: AnyStep): Promise<Outcome> {
    const done = await session.value!.take(step)
    await session.value?.refresh()
    return done.outcome!
  }

  /** Types an entry as it was seen when its first key was pressed. */
  function type(cell: CellText, seen: Seen): Promise<Outcome | undefined> {
    return said(session.value!.type(cell, seen), () => void type(cell, session.value!.seen()), cell.text)
  }

  /** What a step would do; throws the refusal. */
  async function preview(step: AnyStep): Promise<Schema['StepPreview']> {
    const path = { study_id: id.value }
    return got(api.POST('/api/studies/{study_id}/preview', { params: { path }, body: { step } }))
  }

  async function moveHead(to: 'undo' | 'redo' | 'go', state?: number): Promise<void> {
    await said(session.value!.move(to, state ?? null), () => void moveHead(to, state))
  }

  return {
    id, session, tick, overview, refused, show, busy, checked, revision, variables, byId,
    open, close, refresh, stamp, take, tryStep, type, preview, moveHead,
  }
})
