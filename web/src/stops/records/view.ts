/** How the records are looked at in this window: which variables, how wide, which records in which order. */
import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'

import { type AnyStep, api, got, newId, type Schema } from '@/api/client'
import type { Page } from '@/session/cells'
import { attempt } from '@/study/notices'
import { useStudy } from '@/study/store'

export type Arrangement = Required<Schema['Arrangement']>
export type Condition = Required<Schema['Condition']>
type Kept = Schema['SavedView']

const NOTHING: Arrangement = { conditions: [], sort: [], alike: [], remarked: false }

/** A page of records, as of which revision its rows are arranged, and how many rows there are. */
export interface RowsPage extends Page {
  seen: number
  rows: number
  remarked: [number, string | null][]
}

export const useRecordView = defineStore('record view', () => {
  const study = useStudy()
  /** The kept view that was chosen last; what was changed since is not kept. */
  const chosen = ref<string | null>(null)
  /** Variables in their order; null for all. */
  const variables = ref<string[] | null>(null)
  const widths = ref<Record<string, number>>({})
  const arrangement = shallowRef<Arrangement>(NOTHING)
  /** As of which revision rows are arranged; how many there were when the server told it, and how many records then. */
  const seen = ref(0)
  const told = shallowRef({ rows: 0, records: 0 })
  const remarked = shallowRef(new Set<string>())
  const kept = shallowRef<Kept[]>([])

  const plain = computed(() => {
    const { conditions, sort, alike, remarked: only } = arrangement.value
    return !conditions.length && !sort.length && !alike.length && !only
  })
  /** What of the study is asked for by row. */
  const query = computed(() => (plain.value ? {} : { arrangement: JSON.stringify(arrangement.value), seen: seen.value }))
  const rows = computed(() => {
    const records = study.overview?.records ?? 0
    return plain.value ? records : told.value.rows + Math.max(0, records - told.value.records)
  })

  /** Arranges the records, all anew: rows stay where they are from now on, whatever is typed. */
  async function arrange(to: Partial<Arrangement>): Promise<void> {
    const next = { ...NOTHING, ...to }
    const path = { study_id: study.id }
    const found = await attempt(() => got(api.POST('/api/studies/{study_id}/arranged', { params: { path }, body: { arrangement: next } })))
    if (!found) return
    arrangement.value = next
    told.value = { rows: found.rows, records: study.overview?.records ?? 0 }
    seen.value = found.revision
    study.session?.cells.clear()
  }

  /** Takes in what a page tells of the rows; whether it is of the rows that are shown. */
  function take(page: RowsPage): boolean {
    remarked.value = new Set([...remarked.value, ...page.remarked.map(([record, variable]) => `${record}:${variable ?? ''}`)])
    if (plain.value) return true
    if (page.revision >= study.revision) told.value = { rows: page.rows, records: study.overview?.records ?? 0 }
    if (page.seen === seen.value) return true
    seen.value = page.seen // that state was let go: they are arranged anew
    study.session?.cells.clear()
    return false
  }

  // Kept views -----------------------------------------------------------------------------------

  const current = computed(() => kept.value.find((each) => each.id === chosen.value) ?? null)

  async function ask(): Promise<void> {
    if (!study.id) return
    kept.value = (await attempt(() => got(api.GET('/api/studies/{study_id}/record-views', { params: { path: { study_id: study.id } } })))) ?? []
  }

  async function use(id: string | null): Promise<void> {
    const view = kept.value.find((each) => each.id === id)
    chosen.value = view?.id ?? null
    variables.value = view?.shows.variables?.length ? [...view.shows.variables] : null
    widths.value = { ...view?.shows.widths }
    await arrange((view?.shows.arrangement ?? {}) as Partial<Arrangement>)
  }

  /** Keeps what is shown under a name: in place of the view that has it, or as a new one. */
  async function keep(name: string, purpose: 'grid' | 'keying' = 'grid'): Promise<boolean> {
    const there = kept.value.find((each) => each.shows.name === name.trim())
    const id = there?.id ?? newId()
    const shows = { name, purpose, variables: variables.value ?? [], widths: widths.value, arrangement: arrangement.value }
    if (!(await study.take({ do: 'keep view', format: 1, view: id, shows } as unknown as AnyStep))) return false
    await ask()
    chosen.value = id
    return true
  }

  async function remove(id: string): Promise<void> {
    if (!(await study.take({ do: 'remove view', format: 1, view: id } as AnyStep))) return
    if (chosen.value === id) chosen.value = null
    await ask()
  }

  watch(() => study.id, () => {
    chosen.value = variables.value = null
    widths.value = {}
    arrangement.value = NOTHING
    remarked.value = new Set()
  })
  watch(() => [study.id, study.stamp({ shelves: ['view'] })], () => void ask(), { immediate: true })
  watch(() => study.stamp({ shelves: ['comment'] }), (revision) => {
    remarked.value = new Set()
    study.session?.cells.note(revision, 'all')
  })

  return { chosen, variables, widths, arrangement, plain, query, rows, remarked, kept, current, arrange, take, use, keep, remove }
})
