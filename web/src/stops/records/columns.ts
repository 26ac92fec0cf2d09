/** How wide columns are, and in which order they stand: the identifier first. */
import type { TagStrip } from '@/api/client'
import type { Show } from '@/study/store'

const PLAIN: Record<TagStrip['type'], number> = {
  integer: 96, decimal: 104, text: 150, date: 116, time: 96, datetime: 152,
}

export function columnWidth(tag: TagStrip, show: Show): number {
  const labelled = tag.has_codes && show !== 'codes' ? 168 : 0
  const open = tag.use === 'open-ended' ? 220 : 0
  const name = Math.min(tag.name.length, 20) * 8 + 40
  return Math.max(PLAIN[tag.type], labelled, open, name)
}

/** Width of the column of record numbers. */
export const frozenWidth = (records: number): number => 28 + String(records).length * 9

export function inOrder(tags: TagStrip[]): TagStrip[] {
  const first = tags.find((tag) => tag.use === 'identifier')
  return first ? [first, ...tags.filter((tag) => tag !== first)] : tags
}
