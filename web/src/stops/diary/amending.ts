/** An amendment of the diary while it is looked at: what is to be otherwise, and what becomes of all that came after. */
import { computed, ref, watch } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { useTyped } from '@/parts/typed'
import { useAsked } from '@/study/asked'
import { complain, say } from '@/study/notices'
import { useStudy } from '@/study/store'

export type Edit = Schema['EditModel']
export type AmendedLine = Schema['AmendedLine']
export type Says = Record<string, unknown>

/** What a step that is put in looks like to begin with. */
export const BEGINNINGS: Record<string, Says> = {
  define: { do: 'define', variables: [''], parts: { label: '' } },
  rename: { do: 'rename', names: { '': '' } },
  'list codes': { do: 'list codes', variables: [''], lines: [{ code: '', label: '' }] },
  'mark missing': { do: 'mark missing', variables: [''], lines: [{ code: '', reason: 'other' }] },
  'replace entries': { do: 'replace entries', variables: [''], entries: [''], by: '' },
  derive: { do: 'derive', variables: [{ how: '', into: { '': '' } }] },
  'remove variables': { do: 'remove variables', variables: [''] },
}

export const SAID: Record<AmendedLine['came'], string> = {
  done: 'as before', 'in part': 'in part', 'nothing to do': 'nothing to do any more', 'not possible': 'not possible', 'left out': 'left out',
}

export function useAmending() {
  const study = useStudy()
  const edits = ref<Edit[]>([])
  /** The edit whose step is being written. */
  const at = ref(0)
  /** The steps that are amended, as they were. */
  const originals = ref<Record<string, Says>>({})
  const active = computed(() => edits.value[at.value] ?? null)
  const typed = useTyped(edits)
  const whole = (): number => study.stamp({ tags: 'all', entries: 'all', order: true, records: true })
  const answer = useAsked(
    'amend',
    () => [study.id, typed.value, whole()] as const,
    ([study_id, list]) => (list.length ? got(api.POST('/api/studies/{study_id}/amend/preview', { params: { path: { study_id } }, body: { edits: list } })).then((found) => ({ found, of: JSON.stringify(list) })) : null),
  )
  /** What is known of the very edits that stand there; and what was known last. */
  const known = computed(() => (edits.value.length && answer.value?.of === JSON.stringify(edits.value) ? answer.value.found : null))
  const shown = computed(() => (edits.value.length ? (answer.value?.found ?? null) : null))
  const problem = computed(() => known.value?.problem ?? null)
  const lines = computed(() => new Map((shown.value?.lines ?? []).filter((each) => each.step_id).map((each) => [each.step_id!, each])))
  const stuck = computed(() => (known.value?.lines ?? []).filter((each) => each.came === 'not possible'))
  const possible = computed(() => !!known.value && !problem.value && !stuck.value.length)
  /** Known to be what cannot be kept; until it is known, it may be asked for. */
  const refused = computed(() => !!known.value && !possible.value)

  function put(edit: Edit): void {
    const rest = edits.value.filter((each) => !(each.at === edit.at && each.how !== 'before' && edit.how !== 'before'))
    edits.value = [...rest, edit]
    at.value = edits.value.length - 1
  }
  /** Begins with the step as it was; of one that is being amended already with what it is now. */
  async function amend(step: string): Promise<void> {
    const there = edits.value.findIndex((each) => each.at === step && each.how === 'instead')
    if (there >= 0) return void (at.value = there)
    try {
      const found = await got(api.GET('/api/studies/{study_id}/steps/{step_id}/written', { params: { path: { study_id: study.id, step_id: step } } }))
      originals.value = { ...originals.value, [step]: found.says }
      put({ at: step, how: 'instead', says: found.says })
    } catch (error) {
      complain(error)
    }
  }
  const leaveOut = (step: string): void => put({ at: step, how: 'out' })
  const putIn = (step: string): void => put({ at: step, how: 'before', says: structuredClone(BEGINNINGS.define!) })
  function write(says: Says): void {
    edits.value = edits.value.map((each, number) => (number === at.value ? { ...each, says } : each))
  }
  function drop(number: number): void {
    edits.value = edits.value.filter((_, each) => each !== number)
    at.value = Math.max(0, Math.min(at.value, edits.value.length - 1))
  }
  const leave = (): void => void (edits.value = [])

  const keeping = ref(false)
  /** Kept as soon as it is known what it comes to, where somebody did not wait for that; what is typed on takes it back. */
  const wished = ref(false)
  watch(edits, () => (wished.value = false), { flush: 'sync' })
  watch(known, (now) => now && wished.value && void keep())
  async function keep(): Promise<void> {
    if (keeping.value || !edits.value.length) return
    wished.value = !known.value
    if (!possible.value) return
    keeping.value = true
    try {
      const body = { edits: edits.value, expected: known.value!.revision }
      const reply = await got(api.POST('/api/studies/{study_id}/amend', { params: { path: { study_id: study.id } }, body }))
      study.session?.heard(reply.revision)
      await study.refresh()
      leave()
      say(`${study.overview?.undo ?? ''} The way it was stays in the diary; undo leads back there.`)
    } catch (error) {
      complain(error)
    } finally {
      keeping.value = false
    }
  }
  return { edits, at, active, originals, shown, problem, lines, stuck, refused, wished, keeping, amend, leaveOut, putIn, write, drop, leave, keep }
}

export type Amending = ReturnType<typeof useAmending>
