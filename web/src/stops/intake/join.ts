/** More records: which column is which variable, and what becomes of records that are known. */
import { computed, reactive, shallowRef, watch } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { attempt } from '@/study/notices'
import { useStudy } from '@/study/store'
import type { Intake } from './intake'

export type Met = Schema['MetColumn']
export type Known = NonNullable<Schema['More']['known']>

export const NEW = '+'
export const OUT = '-'

export function useJoin(intake: Intake) {
  const study = useStudy()
  const report = shallowRef<Schema['JoinReport'] | null>(null)
  const more = reactive<{ matches: Record<number, Schema['Match']>; identifier: string | null; known: Known }>({
    matches: {},
    identifier: null,
    known: 'keep both',
  })
  const asked = computed(() => report.value?.columns.filter((each) => each.how === 'near') ?? [])
  const fresh = computed(() => report.value?.columns.filter((each) => each.how === 'new') ?? [])
  const left = computed(() => Object.values(more.matches).filter((each) => each.leave_out).length)

  async function look(): Promise<Met[]> {
    const file = intake.file.value
    if (!file) return []
    const body = { study: study.id, settings: file.settings, more: { ...more } }
    const path = { file_id: file.id }
    const found = await attempt(() => got(api.POST('/api/intake/{file_id}/join', { params: { path }, body })))
    if (found) report.value = found
    return found?.columns ?? []
  }

  /** The first look takes the study's identifier where the file has a column for it. */
  async function begin(): Promise<void> {
    Object.assign(more, { matches: {}, identifier: null, known: 'keep both' })
    report.value = null
    const matched = new Set((await look()).map((each) => each.variable))
    const identifier = study.variables.find((each) => each.use === 'identifier' && matched.has(each.id))
    if (identifier) await set({ identifier: identifier.id })
  }

  async function set(change: Partial<typeof more>): Promise<void> {
    Object.assign(more, change)
    await look()
  }

  /** Says what a column is: a variable (its id), a new one, or nothing that is taken. */
  function match(column: number, to: string): Promise<void> {
    const choice = to === OUT ? { leave_out: true, variable: null } : { leave_out: false, variable: to === NEW ? null : to }
    return set({ matches: { ...more.matches, [column]: choice } })
  }

  watch(intake.proposed, (proposed) => proposed && study.variables.length && void begin(), { immediate: true })

  return { more, report, asked, fresh, left, match, set, bringIn: () => intake.addRecords(study.id, { ...more }) }
}

export type Join = ReturnType<typeof useJoin>
