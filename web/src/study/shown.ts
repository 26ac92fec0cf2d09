/** Figures and times as people read them. */
const whole = new Intl.NumberFormat('en')
const tenths = new Intl.NumberFormat('en', { minimumFractionDigits: 1, maximumFractionDigits: 1 })
const fine = new Intl.NumberFormat('en', { maximumSignificantDigits: 4, useGrouping: false })
const large = new Intl.NumberFormat('en', { maximumFractionDigits: 1, useGrouping: false })

export const count = (value: number): string => whole.format(value)

/** A sum of weights, with one digit behind the point. */
export const weighed = (value: number): string => tenths.format(value)

/** "1 record", "1,204 records". */
export const counted = (value: number, word: string, plural = `${word}s`): string =>
  `${count(value)} ${value === 1 ? word : plural}`

export const percent = (value: number | null): string => (value === null ? '' : value.toFixed(1))

/** A figure as an entry is written, without marks between thousands: with four significant digits; of large ones all that are in front of the point, and one behind it. */
export function figure(value: number | null | undefined): string {
  if (value === null || value === undefined) return '–'
  if (Number.isInteger(value) && Math.abs(value) < 1e15) return String(value)
  return (Math.abs(value) < 1000 ? fine : large).format(value)
}

export const clock = (iso: string): string =>
  new Date(iso).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' })

export const moment = (iso: string): string =>
  new Date(iso).toLocaleString('en-GB', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' })

export function bytes(size: number): string {
  if (size < 1024) return `${size} bytes`
  return size < 1024 ** 2 ? `${fine.format(size / 1024)} kB` : `${fine.format(size / 1024 ** 2)} MB`
}

export const LEVEL_SIGNS = { nominal: '≠', ordinal: '≤', interval: '±', ratio: '÷' } as const

export const LEVELS = ['nominal', 'ordinal', 'interval', 'ratio'] as const
export const TYPES = ['integer', 'decimal', 'text', 'date', 'time', 'datetime'] as const
export const USES = [
  'answer', 'several answers', 'open-ended', 'identifier', 'weight', 'design', 'administrative',
] as const
export const PATTERNS = ['yyyy-mm-dd', 'dd.mm.yyyy', 'dd/mm/yyyy', 'mm/dd/yyyy'] as const
export const REASONS = ['refused', "don't know", 'not applicable', 'not asked', 'no answer', 'other'] as const
