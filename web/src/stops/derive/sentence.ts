/** Sentences that recode, written from what becomes of each value. */
import type { Schema } from '@/api/client'

type Side = Schema['SideModel']
type Table = Schema['OldByNewModel']

/** What each old value becomes, by its place: a code, '' for blank, or null where it stays what it is. */
export type Becomes = (string | null)[]

export const quoted = (text: string): string => `'${text.replace(/\s/g, ' ').replace(/(['\\])/g, '\\$1')}'`
const isNumber = (text: string): boolean => /^-?\d+(\.\d+)?$/.test(text)
/** Dates and times stand without quotes, too. */
const isDate = (text: string): boolean => /^(\d{4}-\d\d-\d\d(T\d\d:\d\d(:\d\d(\.\d+)?)?)?|\d\d:\d\d(:\d\d(\.\d+)?)?)$/.test(text)

/** What became of the old values of a table: those that became one value alone, else they stay. */
export function becomesOf(table: Table): Becomes {
  return table.old.map((old, at) => {
    const to = table.ribbons.filter((each) => each.old === at)
    const only = to.length === 1 ? table.new[to[0]!.new] : undefined
    if (!only || only.different > 1) return null
    if (only.reading === 'blank') return old.reading === 'blank' ? null : ''
    return only.code === old.code && only.reading === old.reading && old.reading !== 'valid' ? null : only.code
  })
}

/** An old value as it stands in a line: a code, or a text in quotes. */
function named(old: Side, text: boolean): string {
  if (old.reading === 'blank') return 'blank'
  return !text && (isNumber(old.code) || isDate(old.code)) ? old.code : quoted(old.code)
}

/** The new codes in the order in which they come: those that have a label first, as they stood. */
function inOrder(becomes: Becomes, labels: Map<string, string>): string[] {
  const used = new Set(becomes.filter((each): each is string => !!each))
  return [...[...labels.keys()].filter((code) => used.has(code)), ...[...used].filter((code) => !labels.has(code))]
}

/** `recode name: 1, 2 -> 1 'Holds a plot'; 3 -> 0 'Waiting'`. */
export function recoding(name: string, old: Side[], becomes: Becomes, labels: Map<string, string>, text: boolean): string {
  const lines = inOrder(becomes, labels).map((code) => {
    const from = old.filter((_, at) => becomes[at] === code).map((each) => named(each, text))
    const label = labels.get(code)
    return `${from.join(', ')} -> ${isNumber(code) ? code : quoted(code)}${label && isNumber(code) ? ` ${quoted(label)}` : ''}`
  })
  const blank = old.filter((_, at) => becomes[at] === '').map((each) => named(each, text))
  if (blank.length) lines.push(`${blank.join(', ')} -> blank`)
  return `recode ${name}: ${lines.join('; ')}`
}

/** `codes name: 'Beans' 1; 'Onions', 'onion' 2 'Onion'`. */
export function coding(name: string, old: Side[], becomes: Becomes, labels: Map<string, string>): string {
  const lines = inOrder(becomes, labels).map((code) => {
    const from = old.filter((_, at) => becomes[at] === code).map((each) => each.code)
    const label = labels.get(code)
    return `${from.map(quoted).join(', ')} ${code}${label && label !== from[0] ? ` ${quoted(label)}` : ''}`
  })
  return `codes ${name}: ${lines.join('; ')}`
}

/** The same with a new code so many places up or down: it and those between change their numbers, so that codes stay in order. */
export function moved(becomes: Becomes, labels: Map<string, string>, code: string, by: number): { becomes: Becomes; labels: Map<string, string> } | null {
  const order = inOrder(becomes, labels)
  const [from, to] = [order.indexOf(code), order.indexOf(code) + by]
  if (from < 0 || to < 0 || to >= order.length || !by) return null
  const placed = order.toSpliced(from, 1).toSpliced(to, 0, code)
  const now = new Map(placed.map((each, at) => [each, order[at]!]))
  return { becomes: becomes.map((each) => now.get(each ?? '') ?? each), labels: new Map(placed.map((each) => [now.get(each)!, labels.get(each) ?? ''])) }
}

export type Band = Schema['BandModel']

/** `bands name: .. 34; 35 .. below 60 'working age'; 60 ..`. */
export function banding(name: string, bands: Band[]): string {
  const lines = bands.map((each) => {
    const low = each.low === null ? '' : `${each.above ? 'above ' : ''}${each.low} `
    const high = each.high === null ? '' : ` ${each.below ? 'below ' : ''}${each.high}`
    return `${low}..${high}${each.label === null ? '' : ` ${quoted(each.label)}`}`
  })
  return `bands ${name}: ${lines.join('; ')}`
}

/**
 * The same bands with the cut between one and the next moved to a value, as far as the cuts beside it and the ends let
 * it; null where it stays. Whole numbers are parted between two of them.
 */
export function cutAt(bands: Band[], at: number, value: number, whole: boolean, ends: readonly [number, number] = [-Infinity, Infinity]): Band[] | null {
  const cuts = bands.slice(0, -1).map((each) => Number(each.high))
  const step = whole ? 1 : 0
  const low = at ? cuts[at - 1]! + step : ends[0]
  const high = at < cuts.length - 1 ? cuts[at + 1]! - step : ends[1]
  const bounded = Math.min(Math.max(value, low), high)
  if (!Number.isFinite(bounded) || bounded === cuts[at]) return null
  const out = bands.map((each) => ({ ...each }))
  const [lower, upper] = [out[at]!, out[at + 1]!]
  if (whole) {
    Object.assign(lower, { high: String(Math.round(bounded)), below: false })
    Object.assign(upper, { low: String(Math.round(bounded) + 1), above: false })
  } else {
    const spelled = String(Number(bounded.toPrecision(6)))
    Object.assign(lower, { high: spelled, below: true })
    Object.assign(upper, { low: spelled, above: false })
  }
  return out
}

export type Theme = Schema['ThemeModel']

/** `mentions name: 'Paths' where 'path', 'gravel', = 'a whole answer'`. */
export function theming(name: string, themes: Theme[]): string {
  const said = themes
    .filter((each) => each.words.length || each.whole.length)
    .map((each) => `${quoted(each.label)} where ${[...each.words.map(quoted), ...each.whole.map((text) => `= ${quoted(text)}`)].join(', ')}`)
  return `mentions ${name}: ${said.join('; ')}`
}

/** What a sentence says of everything else, which stays when its lines are written anew: "; else 9 'Other'". */
export const restOf = (text: string): string => /;\s*else\b(?:'(?:[^'\\]|\\.)*'|[^';])*$/i.exec(text)?.[0] ?? ''

/** A sentence of several lines: what stands before its colon, and each line behind it. */
export interface Lines {
  head: string
  lines: string[]
}

/** The lines of a sentence, as in `bands hours: .. 4; 5 ..`; null where it has none. What is quoted is not looked into. */
export function parted(text: string): Lines | null {
  const found = /^\s*((?:recode|bands|codes|split|mentions)\b(?:`[^`]*`|'(?:[^'\\]|\\.)*'|[^:'`])*):([\s\S]*)$/i.exec(text)
  if (!found) return null
  const lines = found[2]!.match(/(?:'(?:[^'\\]|\\.)*'|`[^`]*`|[^;])+/g) ?? ['']
  return { head: `${found[1]!.trim()}:`, lines: lines.map((each) => each.trim()) }
}

export const together = ({ head, lines }: Lines): string => `${head} ${lines.join('; ')}`
