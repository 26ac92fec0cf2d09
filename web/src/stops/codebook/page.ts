/** The page of one tag, or of several as one: what it shows, and the steps that its parts become. */
import { computed } from 'vue'

import { type AnyStep, api, got, Refusal, type Schema, type TableRow, type CodebookPage } from '@/api/client'
import { useAsked } from '@/study/asked'
import { complain } from '@/study/notices'
import { useStudy } from '@/study/store'

type Parts = Schema['Parts']
type Reason = (typeof import('@/study/shown').REASONS)[number]

export function usePage(chosen: () => string[]) {
  const study = useStudy()
  const page = useAsked(
    () => [study.variables.length ? chosen() : [], study.revision] as const,
    ([ids]) => ask(ids.filter((id) => study.byId.has(id))),
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
    const [low, high] = row.code.includes(' .. ') || row.code.startsWith('.. ') || row.code.endsWith(' ..')
      ? row.code.split('..').map((end) => end.trim() || null)
      : [null, null]
    return low || high ? { code: null, low: low ?? null, high: high ?? null } : { code: row.code, low: null, high: null }
  }

  const list = (lines: { row: TableRow; label: string }[]): Promise<unknown> =>
    take({
      do: 'list codes', format: 1, variables: here(),
      lines: lines.map((each) => ({ ...spanOf(each.row), label: each.label })),
    })

  const listText = (lines: Schema['CodeLine'][]): Promise<unknown> =>
    take({ do: 'list codes', format: 1, variables: here(), lines })

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
      if (entries.length) await take({ do: 'accept', format: 1, variable: here()[0]!, reason, entries, check })
    }
  }

  const markAll = (rows: TableRow[], reason: Reason): Promise<unknown> =>
    take({ do: 'mark missing', format: 1, variables: here(), lines: rows.map((row) => ({ ...spanOf(row), reason, label: '' })) })

  /** Gives a code another label on every tag that has it under the same label. */
  const relabel = (row: TableRow, label: string): Promise<unknown> =>
    take({ do: 'relabel', format: 1, line: spanOf(row), was: row.label, label })

  return { page: shown, define, rename, list, listText, markMissing, drop, order, merge, replace, widened, accept, markAll, relabel }
}

export type Page = ReturnType<typeof usePage>

/** Typed or pasted code lines: "3 Waiting list", "35 .. 59 = Middle", one line each. */
export function codeLines(text: string): Schema['CodeLine'][] {
  return text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
    .map(codeLine)
}

const NUMBER = String.raw`[+\-−]?\d+(?:[.,]\d+)?`
const RANGE = new RegExp(String.raw`^(${NUMBER})?\s*\.\.\s*(${NUMBER})?(?:\s*[=:\t]\s*|\s+|$)(.*)$`)
const MARKED = /^(.+?)\s*[\t=]\s*(.*)$|^(\S+):\s+(.*)$/

function codeLine(line: string): Schema['CodeLine'] {
  const range = RANGE.exec(line)
  if (range && (range[1] || range[2])) {
    return { code: null, low: range[1] ?? null, high: range[2] ?? null, label: range[3] ?? '' }
  }
  const marked = MARKED.exec(line)
  if (marked) return { code: (marked[1] ?? marked[3])!, low: null, high: null, label: (marked[2] ?? marked[4])! }
  const [code = '', ...words] = line.split(/\s+/)
  return { code, low: null, high: null, label: words.join(' ') }
}
