/** What was understood of a document, in words. */
import type { Schema } from '@/api/client'
import { count, counted } from '@/study/shown'

type Given = Partial<Schema['Parts']>

/** "5 codes, 2 missing codes, limits": what a description says beyond label and wording. */
export function saidOf(parts: Record<string, unknown>): string[] {
  const given = parts as Given
  const said: string[] = []
  if (given.codes?.length) said.push(counted(given.codes.length, 'code'))
  if (given.missing?.length) said.push(counted(given.missing.length, 'missing code'))
  if (given.limits) said.push(`limits ${given.limits.low ?? ''} .. ${given.limits.high ?? ''}`.trim())
  for (const part of ['level', 'type', 'use'] as const) if (given[part]) said.push(given[part])
  if (given.width) said.push(`width ${given.width}`)
  if (given.note) said.push('a note')
  return said
}

/** "1 Alone, 2 Shared": the codes that a description lists, as many as a line can show. */
export function codesOf(parts: Record<string, unknown>): string {
  const given = parts as Given
  const lines = [...(given.codes ?? []), ...(given.missing ?? [])].slice(0, MOST_CODES)
  return lines.map((line) => [line.code ?? `${line.low ?? ''} .. ${line.high ?? ''}`, line.label].filter(Boolean).join(' ')).join(', ')
}
const MOST_CODES = 12

/** The label, else the wording, that a description gives. */
export function titleOf(parts: Record<string, unknown>): string {
  const given = parts as Given
  return given.label || given.question || ''
}

/** How sure the reading of a variable is and why, in words: "95 % sure: 40 lines are set alike". */
export const sureness = (each: { certainty: number; reason: string }): string => `${Math.round(100 * each.certainty)} % sure: ${each.reason}`

/** "these lines are codes": what was said of lines that were understood otherwise. */
export function meantAs(each: Schema['Otherwise']): string {
  const [these, are, belong] = each.first === each.last ? ['this line', 'holds', 'belongs'] : ['these lines', 'are', 'belong']
  if (each.are === 'names') return `names are in column ${each.column} of this table`
  if (each.are === 'to') return `${these} ${belong} to ${each.names.join(', ')}`
  return each.are === 'codes' ? `${these} ${are} codes` : `no variable begins in ${these}`
}

/** Below this share of certainty somebody should look at the lines. */
export const UNSURE = 0.6

/** "strays 14 → 3", or what else taking one difference does to how entries read. */
export function effectOf(effect: Schema['Change'] | null): string {
  if (!effect) return ''
  if (effect.strays_before !== effect.strays_after) return `strays ${count(effect.strays_before)} → ${count(effect.strays_after)}`
  return effect.valid_before !== effect.valid_after ? `valid ${count(effect.valid_before)} → ${count(effect.valid_after)}` : ''
}
