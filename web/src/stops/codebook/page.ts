/** The page of one tag, or of several as one: what it shows, and the steps that its parts become. */
import { computed } from 'vue'

import { type AnyStep, api, got, type Schema, type TableRow, type CodebookPage } from '@/api/client'
import { Refusal } from '@/api/refusal'
import { useAsked } from '@/study/asked'
import { complain } from '@/study/notices'
import { useStudy } from '@/study/store'

type Parts = Schema['Parts']
type Reason = (typeof import('@/study/shown').REASONS)[number]

export function usePage(chosen: () => string[]) {
  const study = useStudy()
  const page = useAsked(
    'page',
    () => {
      const ids = study.variables.length ? chosen() : []
      return [study.id, ids, study.stamp({ tags: ids, entries: ids, order: true, shelves: ['list', 'battery', 'source', 'accepted'], records: true })] as const
    },
    ([, ids]) => ask(ids.filter((id) => study.byId.has(id))),
  )

  function ask(ids: string[]): Promise<CodebookPage> | null {
    const [first] = ids
    if (first === undefined) return null
    if (ids.length > 1) {
      const path = { study_id: study.id }
      return got(api.POST('/api/studies/{study_id}/page', { params: { path }, body: { variables: ids } }))
    }
    const path = { study_id: study.id, variable_id: first }
    return got(api.GET('/api/studies/{study_id}/variables/{variable_id}', { params: { path } }))
  }

  const shown = computed<CodebookPage | null>(() => {
    const ids = chosen()
    return page.value && page.value.ids.length === ids.length && page.value.ids.every((id) => ids.includes(id)) ? page.value : null
  })
  const here = (): string[] => shown.value!.ids

  const take = (step: AnyStep): Promise<unknown> => study.take(step)
  const define = (parts: Partial<Parts>): Promise<unknown> =>
    take({ do: 'define', format: 1, variables: here(), parts: parts as Parts })

  /** Renames; gives the refusal, if it is about the name, for showing it in place. */
  async function rename(name: string): Promise<Schema['Problem'] | null> {
    try {
      await study.tryStep({ do: 'rename', format: 1, names: { [here()[0]!]: name } })
      return null
    } catch (error) {
      if (error instanceof Refusal && error.problem.suggestion) return error.problem
      complain(error)
      return null
    }
  }

  const spanOf = (row: TableRow): Schema['CodeSpan'] => {
    const { low, high } = row
    return low !== null || high !== null ? { code: null, low, high } : { code: row.code, low: null, high: null }
  }

  const list = (lines: { row: TableRow; label: string }[]): Promise<unknown> =>
    take({
      do: 'list codes', format: 1, variables: here(),
      lines: lines.map((each) => ({ ...spanOf(each.row), label: each.label })),
    })

  /** Lists typed or pasted lines; they are read when it is their turn, so that lines typed quickly keep their order. */
  function listText(text: string): Promise<unknown> {
    const variables = here()
    return study.take(async () => {
      const lines = (await codeLines(text)).map(({ code, low, high, label }) => ({ code, low, high, label }))
      return { do: 'list codes', format: 1, variables, lines } as AnyStep
    })
  }

  const markMissing = (row: TableRow, reason: Reason, label = row.label): Promise<unknown> =>
    take({ do: 'mark missing', format: 1, variables: here(), lines: [{ ...spanOf(row), reason, label }] })

  const drop = (row: TableRow): Promise<unknown> =>
    take({ do: 'drop codes', format: 1, variables: here(), lines: [spanOf(row)] })

  const order = (rows: TableRow[]): Promise<unknown> =>
    take({ do: 'order codes', format: 1, variables: here(), lines: rows.map(spanOf) })

  const replace = (entries: string[], by: string): Promise<unknown> =>
    take({ do: 'replace entries', format: 1, variables: here(), entries, by })

  const merge = (row: TableRow, into: string): Promise<unknown> =>
    replace([row.code], into)

  /** Limits that also take in a number which the present ones leave out; null where that is not the cause. */
  function widened(row: TableRow): Schema['Limits'] | null {
    const { low = null, high = null } = shown.value?.tag.limits ?? {}
    const value = Number(row.code)
    if (row.unreadable || Number.isNaN(value)) return null
    if (low !== null && value < Number(low)) return { low: row.code, high }
    if (high !== null && value > Number(high)) return { low, high: row.code }
    return null
  }

  /** Accepts strays; those of the two kinds are two findings, and so two steps. */
  async function accept(rows: TableRow[], reason: string): Promise<void> {
    for (const check of ['unreadable entries', 'unlisted codes'] as const) {
      const entries = rows.filter((row) => row.unreadable === (check === 'unreadable entries')).map((row) => row.code)
      if (entries.length) await take({ do: 'accept', format: 1, variable: here()[0]!, reason, entries, which: '', check })
    }
  }

  const markAll = (rows: TableRow[], reason: Reason): Promise<unknown> =>
    take({ do: 'mark missing', format: 1, variables: here(), lines: rows.map((row) => ({ ...spanOf(row), reason, label: '' })) })

  /** Gives a code another label on every tag that has it under the same label. */
  const relabel = (row: TableRow, label: string): Promise<unknown> =>
    take({ do: 'relabel', format: 1, line: spanOf(row), was: row.label, label })

  /** Says where answers lead: all skips of the tag. */
  const lead = (skips: Schema['Skip'][]): Promise<unknown> =>
    take({ do: 'set skips', format: 1, variable: here()[0]!, skips })

  return { page: shown, define, lead, rename, list, listText, markMissing, drop, order, merge, replace, widened, accept, markAll, relabel }
}

export type Page = ReturnType<typeof usePage>

/** Typed or pasted code lines, as the server reads them; throws its refusal. */
export async function codeLines(text: string): Promise<Schema['TypedLine'][]> {
  return (await got(api.POST('/api/code-lines', { body: { text } }))).lines
}
