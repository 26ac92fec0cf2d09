/** The study that is open: its overview, the one way to change it, and how entries are shown. */
import { useLocalStorage } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'

import { type AnyStep, api, got, newId, type Overview, type Schema, type TagStrip } from '@/api/client'
import { listen } from './events'
import { attempt } from './notices'

export type Show = 'codes' | 'labels' | 'both'

export const useStudy = defineStore('study', () => {
  const id = ref('')
  const overview = shallowRef<Overview | null>(null)
  const show = useLocalStorage<Show>('row-tag-show', 'both')
  const busy = ref(0)
  let stopListening: () => void = () => undefined
  let sending = Promise.resolve()

  const revision = computed(() => overview.value?.revision ?? 0)
  const byId = shallowRef(new Map<string, TagStrip>())
  const variables = computed<TagStrip[]>(() => (overview.value?.order ?? []).map((each) => byId.value.get(each)!))

  async function open(study: string): Promise<void> {
    close()
    id.value = study
    await refresh()
    stopListening = listen(study, (told) => {
      if (told !== revision.value) void refresh()
    })
  }

  function close(): void {
    stopListening()
    overview.value = null
    byId.value = new Map()
  }

  async function refresh(): Promise<void> {
    const asked = id.value
    const known = overview.value?.revision
    const found = await attempt(() =>
      got(api.GET('/api/studies/{study_id}', { params: { path: { study_id: asked }, query: { known } } })),
    )
    if (!found || asked !== id.value) return
    if (overview.value?.revision !== known) {
      // Another answer came first: what this one says has changed is said of an older state.
      if (found.revision > revision.value) await refresh()
      return
    }
    const tags = new Map(found.variables.map((each) => [each.id, each]))
    byId.value = new Map(found.order.map((each) => [each, tags.get(each) ?? byId.value.get(each)!]))
    overview.value = found
  }

  /** Sends a step; gives what it came to, or undefined when it was refused (and said so). */
  async function take(step: AnyStep): Promise<Schema['StepOutcome'] | undefined> {
    return attempt(() => tryStep(step))
  }

  /**
   * Sends a step; throws the refusal, for those who show it in place. Steps go one behind the other, each made for
   * what the one before left: somebody who types fast does not get into their own way.
   */
  async function tryStep(step: AnyStep): Promise<Schema['StepOutcome']> {
    busy.value++
    const before = sending
    let sent = (): void => undefined
    sending = new Promise((done) => (sent = done))
    await before
    try {
      const body = { id: newId(), base: revision.value, step }
      const path = { study_id: id.value }
      const outcome = await got(api.POST('/api/studies/{study_id}/steps', { params: { path }, body }))
      await refresh()
      return outcome
    } finally {
      sent()
      busy.value--
    }
  }

  /** What a step would do; throws the refusal. */
  async function preview(step: AnyStep): Promise<Schema['StepPreview']> {
    const path = { study_id: id.value }
    return got(api.POST('/api/studies/{study_id}/preview', { params: { path }, body: { step } }))
  }

  async function moveHead(to: 'undo' | 'redo' | 'go', state?: number): Promise<void> {
    const body = { to, expected: revision.value, state: state ?? null }
    const path = { study_id: id.value }
    await attempt(() => got(api.POST('/api/studies/{study_id}/head', { params: { path }, body })))
    await refresh()
  }

  return { id, overview, show, busy, revision, variables, byId, open, close, refresh, take, tryStep, preview, moveHead }
})
