/** Remedies that are looked at: what they would do is said before they are done, one by one or together. */
import { computed, type ComputedRef, ref, type Ref, shallowRef, type ShallowRef } from 'vue'

import { type AnyStep, api, type Finding, got, type Schema } from '@/api/client'
import { orRefusal } from '@/api/refusal'
import { useAsked } from '@/study/asked'
import { attempt, say } from '@/study/notices'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'

export interface Looked {
  word: string
  step: AnyStep
}

/** What tells one finding from all others. */
export const keyOf = ({ check, variable, which }: Finding): string => `${check}|${variable}|${which}`

export interface Remedies {
  looked: ShallowRef<Map<string, Looked>>
  look: (finding: Finding, remedy: Schema['RemedyModel']) => void
  lookAll: (findings: Finding[], word: string) => void
  clear: () => void
  said: ComputedRef<string>
  possible: ComputedRef<boolean>
  taking: Ref<boolean>
  take: () => Promise<void>
}

export function useRemedies(): Remedies {
  const study = useStudy()
  const looked = shallowRef(new Map<string, Looked>())
  const taking = ref(false)
  const steps = computed(() => [...looked.value.values()].map((each) => each.step))
  const path = computed(() => ({ study_id: study.id }))

  const put = (finding: Finding, { word, step }: Schema['RemedyModel']): void => {
    looked.value = new Map([...looked.value, [keyOf(finding), { word, step: step as AnyStep }]])
  }
  function look(finding: Finding, remedy: Schema['RemedyModel']): void {
    const key = keyOf(finding)
    if (looked.value.get(key)?.word !== remedy.word) return put(finding, remedy)
    looked.value = new Map([...looked.value].filter(([each]) => each !== key))
  }
  function lookAll(findings: Finding[], word: string): void {
    for (const finding of findings) {
      const remedy = finding.remedies?.find((each) => each.word === word)
      if (remedy) put(finding, remedy)
    }
  }
  const clear = (): void => void (looked.value = new Map())

  const one = useAsked(
    'remedy',
    () => [study.id, steps.value, study.revision] as const,
    ([, asked]) => (asked.length === 1 ? orRefusal(study.preview(asked[0]!)) : null),
  )
  const several = useAsked(
    'remedies',
    () => [study.id, steps.value, study.revision] as const,
    ([, asked]) => (asked.length > 1 ? got(api.POST('/api/studies/{study_id}/preview-several', { params: { path: path.value }, body: { steps: asked } })) : null),
  )
  const said = computed(() => {
    if (steps.value.length === 1) return one.value?.[0]?.sentence ?? one.value?.[1]?.detail ?? ''
    const found = several.value
    if (!found || steps.value.length < 2) return ''
    const { before, after, refused } = found
    const shares = (['valid', 'missing', 'blank', 'stray'] as const).filter((share) => before[share] !== after[share])
    const names = { valid: 'valid', missing: 'coded missing', blank: 'blank', stray: 'strays' }
    const parts = shares.map((share) => `${names[share]} ${before[share].toLocaleString('en')} → ${after[share].toLocaleString('en')}`)
    const left = refused.length ? `${counted(refused.length, 'of them', 'of them')} cannot be done: ${refused[0]}` : ''
    return [parts.join('; ') || 'No entry reads otherwise', left].filter(Boolean).join('. ')
  })
  const possible = computed(() => (steps.value.length === 1 ? !!one.value?.[0] : !!several.value?.done))

  /** Takes what is looked at, one step after the other; each can be undone by itself. */
  async function take(): Promise<void> {
    if (taking.value) return
    taking.value = true
    const asked = [...steps.value]
    let done = 0
    for (const step of asked) {
      const outcome = asked.length === 1 ? await study.take(step) : await attempt(() => study.tryStep(step))
      if (!outcome) continue
      done += 1
      if (asked.length === 1) say(outcome.sentence)
    }
    if (asked.length > 1) say(`Did ${counted(done, 'remedy', 'remedies')}; each can be undone by itself.`)
    taking.value = false
    clear()
  }
  return { looked, look, lookAll, clear, said, possible, taking, take }
}
