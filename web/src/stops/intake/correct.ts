/** A corrected version of a file that was brought in, met with it record by record. */
import { computed, reactive, ref, shallowRef } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { attempt } from '@/study/notices'
import { useStudy } from '@/study/store'
import type { Intake } from './intake'

type How = { source: string; identifier: string | null; renamed: Record<string, string>; typed_stay: boolean; otherwise: string[] }

export function useCorrection(intake: Intake) {
  const study = useStudy()
  const look = shallowRef<Schema['CorrectedLook'] | null>(null)
  const looking = ref(false)
  const sources = shallowRef<Schema['SourceModel'][]>([])
  const how = reactive<How>({ source: '', identifier: null, renamed: {}, typed_stay: true, otherwise: [] })
  const ready = computed(() => Boolean(look.value && !look.value.problem && !looking.value))
  const stuck = computed(() => look.value?.lines.filter((each) => each.came === 'not possible').length ?? 0)
  let turn = 0

  async function again(): Promise<void> {
    const file = intake.file.value
    if (!file || !how.source) return
    const mine = ++turn
    looking.value = true
    const body = { study: study.id, settings: file.settings, how: { ...how } }
    const found = await attempt(() => got(api.POST('/api/intake/{file_id}/corrected', { params: { path: { file_id: file.id } }, body })))
    if (mine !== turn) return
    looking.value = false
    if (found) look.value = found
  }
  /** Begins with the source that the file seems to correct, and the study's own identifier. */
  async function begin(source: string | null): Promise<void> {
    look.value = null
    sources.value = (await attempt(() => got(api.GET('/api/studies/{study_id}/sources', { params: { path: { study_id: study.id } } })))) ?? []
    const identifier = study.variables.find((each) => each.use === 'identifier')?.id ?? null
    Object.assign(how, { source: source ?? sources.value[0]?.id ?? '', identifier, renamed: {}, typed_stay: true, otherwise: [] })
    await again()
  }
  function set(change: Partial<How>): Promise<void> {
    Object.assign(how, change)
    return again()
  }
  /** Whether what somebody typed over an entry that changed stays. */
  function decide(variable: string, record: number, stays: boolean): Promise<void> {
    const at = `${variable}/${record}`
    const rest = how.otherwise.filter((each) => each !== at)
    return set({ otherwise: stays === how.typed_stay ? rest : [...rest, at] })
  }
  const take = (): Promise<boolean> => intake.correct(study.id, { ...how }, look.value!.revision)

  return { look, looking, sources, how, ready, stuck, begin, set, decide, take }
}

export type CorrectionOf = ReturnType<typeof useCorrection>
