/** How an entry is shown: as code, as label, or both. */
import type { TagStrip } from '@/api/client'
import { dated } from '@/parts/dates'
import type { Cell } from '@/session/cells'
import type { Show } from '@/study/store'

export const KINDS = ['valid', 'missing', 'blank', 'unreadable', 'unlisted'] as const

/** How an entry reads, in words. */
export function wordsOf(cell: Cell): string {
  const kind = KINDS[cell.state]!
  if (kind === 'missing') return `coded missing: ${cell.label || cell.code}`
  if (kind === 'unreadable') return 'unreadable: it does not fit the type'
  if (kind === 'unlisted') return 'not allowed by the code list or the limits'
  return kind === 'valid' && cell.label ? `valid: ${cell.label}` : kind
}

/** The code and the label, as far as each is shown: a stray as it stands, a value without a label by itself. */
export function shownAs(cell: Cell, tag: TagStrip, show: Show): [code: string, label: string] {
  const kind = KINDS[cell.state]
  if (kind === 'blank') return ['', '']
  if (kind === 'unreadable' || kind === 'unlisted') return ['', cell.text]
  if (!cell.label) return ['', tag.type === 'text' ? cell.text : dated(cell.code, tag.pattern)]
  return show === 'codes' ? ['', cell.code] : [show === 'both' ? cell.code : '', cell.label]
}
