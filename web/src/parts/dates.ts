/** Dates as a tag shows them; everything else as it is. */
import type { Schema } from '@/api/client'

const ISO = /^(\d{4})-(\d{2})-(\d{2})(.*)$/

/** A canonical date (or date and time) in a pattern such as dd.mm.yyyy. */
export function dated(canonical: string, pattern: Schema['TagStrip']['pattern']): string {
  const found = ISO.exec(canonical)
  if (!found || pattern === 'yyyy-mm-dd') return canonical
  const [, year, month, day, rest] = found
  return pattern.replace('yyyy', year!).replace('mm', month!).replace('dd', day!) + rest
}

const DAY = 86_400_000

/** The date that some days after 1970-01-01 are, in canonical form. */
export const dateOf = (days: number): string => new Date(Math.round(days) * DAY).toISOString().slice(0, 10)
export const daysOf = (date: string): number => Date.parse(date) / DAY
