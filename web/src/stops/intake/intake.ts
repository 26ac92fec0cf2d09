/** A file on its way in: handed in, looked at, proposed, brought in. */
import { computed, reactive, ref, shallowRef } from 'vue'

import { api, got, newId, type Schema } from '@/api/client'
import { useWork } from '@/study/jobs'
import { attempt } from '@/study/notices'

export type FileSeen = Schema['IntakeFile']
export type Column = Schema['ColumnProposal']
export type Choice = Schema['Choice']
export type Settings = Schema['Settings']

export const SEPARATORS: Record<string, string> = { ',': 'comma', ';': 'semicolon', '\t': 'tab', '|': 'bar' }
export const ENCODINGS: Record<string, string> = {
  'utf-8': 'UTF-8',
  'utf-16': 'UTF-16',
  cp1252: 'Windows-1252',
  'iso-8859-15': 'Latin-9',
  'mac-roman': 'Mac Roman',
}

export function useIntake() {
  const file = shallowRef<FileSeen | null>(null)
  const proposed = shallowRef<Schema['ProposalReport'] | null>(null)
  const choices = reactive<Record<number, Choice>>({})
  const handing = ref(false)
  const work = useWork()
  const kept = computed(() => proposed.value?.columns.filter((each) => !choices[each.column]?.leave_out) ?? [])

  async function handIn(chosen: File): Promise<void> {
    drop()
    handing.value = true
    const form = new FormData()
    form.append('file', chosen)
    const body = form as unknown as { file: string }
    const seen = await attempt(() => got(api.POST('/api/intake', { body, bodySerializer: () => form })))
    handing.value = false
    if (seen) {
      file.value = seen
      await propose()
    }
  }

  async function readAnotherWay(change: Partial<Settings>): Promise<void> {
    if (!file.value) return
    await work.cancel()
    const settings = { ...file.value.settings, ...change }
    const path = { file_id: file.value.id }
    const seen = await attempt(() =>
      got(api.POST('/api/intake/{file_id}/picture', { params: { path }, body: { settings } })),
    )
    if (seen) {
      file.value = seen
      await propose()
    }
  }

  async function propose(): Promise<void> {
    if (!file.value) return
    proposed.value = null
    for (const column of Object.keys(choices)) delete choices[Number(column)]
    const { id, settings } = file.value
    const start = (): Promise<Schema['JobState']> =>
      got(api.POST('/api/intake/{file_id}/proposals', { params: { path: { file_id: id } }, body: { settings } }))
    const done = await attempt(() => work.run(start()))
    if (done) proposed.value = done.proposals
  }

  /** Brings the file in; true when it was. */
  async function bringIn(study: string): Promise<boolean> {
    if (!file.value) return false
    const { id, settings } = file.value
    const body = { study, step_id: newId(), settings, choices: { ...choices } }
    const start = (): Promise<Schema['JobState']> =>
      got(api.POST('/api/intake/{file_id}/bring-in', { params: { path: { file_id: id } }, body }))
    const done = await attempt(() => work.run(start()))
    if (done) file.value = proposed.value = null
    return Boolean(done)
  }

  function choose(column: number, part: Partial<Choice>): void {
    choices[column] = { ...choices[column], ...part } as Choice
  }

  function drop(): void {
    if (file.value) void api.DELETE('/api/intake/{file_id}', { params: { path: { file_id: file.value.id } } })
    file.value = null
    proposed.value = null
  }

  return { file, proposed, choices, handing, kept, job: work.job, cancel: work.cancel, handIn, readAnotherWay, bringIn, choose, drop }
}
