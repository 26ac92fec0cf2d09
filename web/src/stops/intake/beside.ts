/** More variables: a file of the same records, whose columns are put beside them by an identifier. */
import { computed, reactive, shallowRef } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { attempt } from '@/study/notices'
import { useStudy } from '@/study/store'
import type { Intake } from './intake'

export type Doubled = NonNullable<Schema['MoreVariables']['doubled']>
type More = { identifier: string | null; column: number | null; taken: Record<number, boolean>; doubled: Doubled }

const begun = (): More => ({ identifier: null, column: null, taken: {}, doubled: 'first' })

export function useBeside(intake: Intake) {
  const study = useStudy()
  const report = shallowRef<Schema['BesideReport'] | null>(null)
  const more = reactive(begun())
  const taken = computed(() => report.value?.columns.filter((each) => each.taken) ?? [])
  const ready = computed(() => Boolean(report.value?.matched && taken.value.length))
  let turn = 0

  async function look(): Promise<void> {
    const file = intake.file.value
    if (!file) return
    const mine = ++turn
    const body = { study: study.id, settings: file.settings, more: { ...more } }
    const path = { file_id: file.id }
    const found = await attempt(() => got(api.POST('/api/intake/{file_id}/beside', { params: { path }, body })))
    if (found && mine === turn) report.value = found
  }
  function begin(): Promise<void> {
    Object.assign(more, begun())
    report.value = null
    return look()
  }
  function set(change: Partial<More>): Promise<void> {
    Object.assign(more, change)
    return look()
  }
  const take = (column: number, is: boolean): Promise<void> => set({ taken: { ...more.taken, [column]: is } })

  return { report, more, taken, ready, begin, set, take, bringIn: () => intake.putBeside(study.id, { ...more }) }
}

export type Beside = ReturnType<typeof useBeside>
