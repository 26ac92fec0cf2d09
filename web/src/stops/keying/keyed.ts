/** Keying one record after another by keys alone: where somebody is, what a key means there, and what becomes of it. */
import type { Schema } from '@/api/client'

export type Question = Schema['KeyedQuestion']
export type Variable = Schema['KeyedVariable']
type Answer = Schema['KeyedAnswer']

/** Where one stops: at a variable, or at a whole question of things to tick (then `variable` is its first). */
export interface Stop {
  question: Question
  variable: Variable
  ticks: boolean
}

/** What is in doubt: Enter keeps it; a run of keys never does. */
export interface Doubt {
  entry: string
  why: string
}

/** Keys for answers that are missing, by the reasons of the tag. */
export const REASON_KEYS: Record<string, string> = {
  d: "don't know", r: 'refused', s: 'not applicable', n: 'no answer', o: 'other',
}
const SKIPPED = ['not applicable', 'not asked']

/** The missing answer that a key stands for: "s" skips, whether that is not applicable or not asked. */
export function missingBy(key: string, answers: readonly Answer[]): Answer | undefined {
  const reason = REASON_KEYS[key.toLowerCase()]
  const of = (wanted: string): Answer | undefined => answers.find((each) => each.reason === wanted)
  return key.toLowerCase() === 's' ? SKIPPED.map(of).find(Boolean) : reason ? of(reason) : undefined
}

export class Keyed {
  readonly stops: Stop[]
  at = 0
  /** What was pressed so far of a code that goes on. */
  begun = ''
  doubt: Doubt | null = null
  /** The entries of the record, by variable; and what is ticked at the stop. */
  entries = new Map<string, string>()
  ticked = new Set<string>()
  /** What a skip has passed by just now. */
  passed = 0

  constructor(readonly questions: readonly Question[], private readonly keep: (variable: string, entry: string) => void, private readonly end: () => void) {
    this.stops = questions.flatMap((question): Stop[] =>
      question.kind === 'ticks'
        ? [{ question, variable: question.variables[0]!, ticks: true }]
        : question.variables.map((variable) => ({ question, variable, ticks: false })),
    )
  }

  get stop(): Stop | undefined {
    return this.stops[this.at]
  }

  /** Whether what is typed goes into a field: text, numbers, dates. */
  get free(): boolean {
    const stop = this.stop
    return stop !== undefined && !stop.ticks && !stop.variable.coded
  }

  /** Another record is keyed from its first question on, or one is gone back to. */
  turn(entries = new Map<string, string>()): void {
    this.entries = entries
    this.go(0)
  }

  /** Takes up what was begun by an older list of questions (`text` is being typed); whether one is still at the same stop. */
  follow(before: Keyed, text: string): boolean {
    this.turn(before.entries)
    const was = before.stop
    if (!before.at && !before.entries.size && !before.ticked.size && !(text || before.begun || before.doubt)) return false // at the first, whichever that is
    const at = this.stops.findIndex((each) => each.variable.id === was?.variable.id && each.ticks === was.ticks)
    if (at < 0) return false
    this.go(at)
    const { begun, doubt, passed, ticked } = before
    Object.assign(this, { begun, doubt, passed, ticked })
    return true
  }

  go(to: number): void {
    this.at = Math.min(Math.max(to, 0), Math.max(0, this.stops.length - 1))
    this.begun = ''
    this.doubt = null
    this.passed = 0
    const question = this.stop?.ticks ? this.stop.question : null
    this.ticked = new Set(question?.variables.filter((each) => this.entries.get(each.id) === marks(each).on).map((each) => each.id))
  }

  back(): void {
    this.go(this.at - 1)
  }

  /** To the next stop; behind the last the record is done. */
  on(passing: ReadonlySet<string> = new Set()): void {
    let to = this.at + 1
    while (to < this.stops.length && passing.has(this.stops[to]!.variable.id)) to++
    const passed = to - this.at - 1
    if (to >= this.stops.length) return this.end()
    this.go(to)
    this.passed = passed
  }

  /** Keeps an entry and moves on, past what it skips. */
  answer(entry: string): void {
    const { variable } = this.stop!
    this.set(variable.id, entry)
    this.on(new Set(variable.skips[entry] ?? []))
  }

  leaveBlank(): void {
    const { variable, ticks, question } = this.stop!
    for (const each of ticks ? question.variables : [variable]) if (this.entries.get(each.id)) this.set(each.id, '')
    this.on()
  }

  /** A key at a stop with answers: whether it meant anything. */
  press(key: string): boolean {
    const stop = this.stop
    if (!stop || this.free) return false
    if (key === 'Backspace') {
      if (this.begun || this.doubt) this.forget()
      else this.back()
    } else if (key === ' ') this.leaveBlank()
    else if (key === 'Enter') this.enter()
    else if (key.length !== 1) return false
    else if (stop.ticks) this.tick(key)
    else this.code(key)
    return true
  }

  /** A key for a missing answer where something is typed: whether the tag has such an answer. */
  missing(key: string): boolean {
    const found = missingBy(key, this.stop?.variable.answers ?? [])
    if (found) this.answer(found.code)
    return found !== undefined
  }

  /** What was typed into a field is done: kept, unless it cannot be, which is asked first. */
  typed(text: string): void {
    const entry = text.trim()
    const before = this.entries.get(this.stop!.variable.id) ?? ''
    if (entry === before) return this.on()
    const why = entry ? unfit(this.stop!.variable, entry) : ''
    if (why && this.doubt?.entry !== entry) this.doubt = { entry, why }
    else this.answer(entry)
  }

  /** Forgets what was begun, or asked. */
  forget(): void {
    this.begun = ''
    this.doubt = null
  }

  private set(variable: string, entry: string): void {
    if ((this.entries.get(variable) ?? '') === entry) return
    this.entries.set(variable, entry)
    this.keep(variable, entry)
  }

  private enter(): void {
    const stop = this.stop!
    if (this.doubt) this.answer(this.doubt.entry)
    else if (stop.ticks) this.tickedAll()
    else if (this.begun && keysOf(stop.variable).has(this.begun)) this.take(keysOf(stop.variable).get(this.begun)!)
    else this.on()
  }

  private code(key: string): void {
    const { variable } = this.stop!
    if (this.doubt?.entry === key) return
    const { begun } = this
    this.forget()
    const [codes, text] = [keysOf(variable), begun + key]
    const going = [...codes.keys()].filter((each) => each.toLowerCase().startsWith(text.toLowerCase()))
    if (going.length === 1 && going[0]!.length === text.length) return this.take(codes.get(going[0]!)!)
    if (going.length) {
      this.begun = text
      return
    }
    const missing = begun ? undefined : missingBy(key, variable.answers)
    if (missing) return this.answer(missing.code)
    this.begun = ''
    this.doubt = { entry: text, why: `is not among the codes of ${variable.name}` }
  }

  /** A code that is there: of a ranking, each only once. */
  private take(code: string): void {
    const { question, variable } = this.stop!
    const twice = question.kind === 'ranks' && question.variables.find((each) => each.id !== variable.id && this.entries.get(each.id) === code)
    this.begun = ''
    if (twice && variable.answers.every((each) => each.code !== code || !each.reason)) this.doubt = { entry: code, why: `is the rank of ${twice.label || twice.name} already` }
    else this.answer(code)
  }

  private tick(key: string): void {
    const { question } = this.stop!
    const missing = missingBy(key, this.stop!.variable.answers)
    if (missing && !this.begun) {
      for (const each of question.variables) this.set(each.id, missing.code)
      return this.on()
    }
    const text = this.begun + key
    const numbers = question.variables.map((_, at) => String(at + 1))
    const going = numbers.filter((number) => number.startsWith(text))
    this.begun = going.length > 1 ? text : ''
    if (text === '0' && !going.length) {
      this.ticked.clear()
      return this.tickedAll()
    }
    if (going.length === 1 && going[0] === text) this.toggle(Number(text) - 1)
    else if (!going.length) this.doubt = null
  }

  /** Ticks a thing, or takes the tick back. */
  toggle(at: number): void {
    const id = this.stop!.question.variables[at]?.id
    if (id === undefined) return
    if (this.ticked.has(id)) this.ticked.delete(id)
    else this.ticked.add(id)
  }

  /** Nothing more is to be ticked: what is not, is said so. */
  private tickedAll(): void {
    if (this.begun) this.toggle(Number(this.begun) - 1)
    for (const each of this.stop!.question.variables) {
      const { on, off } = marks(each)
      this.set(each.id, this.ticked.has(each.id) ? on : off)
    }
    this.on()
  }
}

/** What is pressed for each code: the code itself, or, where codes are words, the number of its line. */
export function keysOf(variable: Variable): Map<string, string> {
  const short = (code: string): boolean => /^\S{1,4}$/.test(code)
  const own = variable.answers.every((each) => each.reason || short(each.code))
  const lines = variable.answers.map((each, at) => [own || (each.reason && short(each.code)) ? each.code : String(at + 1), each.code] as const)
  return new Map(lines)
}

/** The codes for what is ticked and what is not: 1 and 0, or as the list has them; without a second one blank. */
export function marks(variable: Variable): { on: string; off: string } {
  const codes = variable.answers.filter((each) => !each.reason).map((each) => each.code)
  const off = codes.find((code) => code === '0') ?? (codes.length === 2 ? codes.find((code) => /^2$/.test(code)) : undefined) ?? ''
  return { on: codes.find((code) => code !== off) ?? '1', off }
}

/** Why an entry cannot be under its tag; empty where it can, or where only the server can tell. */
export function unfit(variable: Variable, entry: string): string {
  if (variable.answers.some((each) => each.code === entry)) return ''
  const { name, type, low, high, decimal } = variable
  if (type === 'text') return ''
  if (type !== 'integer' && type !== 'decimal') return unfitDate(type, entry, variable.date_order) ? `is no ${type}, as ${name} wants one` : ''
  const text = entry.replace('\u2212', '-').replace(decimal, '.')
  if (!/^[+-]?(\d+\.?\d*|\.\d+)$/.test(text)) return `is no number, as ${name} wants one`
  const value = Number(text)
  if (type === 'integer' && !Number.isInteger(value)) return `is no whole number, as ${name} wants one`
  if ((low !== null && value < Number(low)) || (high !== null && value > Number(high))) {
    return `is beyond ${[low, high].filter((end) => end !== null).join(' to ')}, the limits of ${name}`
  }
  return ''
}

/** Whether an entry is no date or time that there is, in the order in which the variable has days and months. */
function unfitDate(type: string, entry: string, order: string): boolean {
  const [day, time] = type === 'datetime' ? [entry.split(/[T ]/)[0]!, entry.split(/[T ]/).slice(1).join(' ')] : [entry, entry]
  return (type !== 'time' && !isDay(day, order)) || (type !== 'date' && !isTime(time))
}

function isTime(text: string): boolean {
  const found = /^(\d{1,2}):(\d\d)(?::(\d\d)(?:\.\d{1,6})?)?$/.exec(text)
  return found !== null && Number(found[1]) < 24 && Number(found[2]) < 60 && Number(found[3] ?? 0) < 60
}

/** As the server reads them: one sign between the parts, the year of four digits; a year in front is read under every order. */
function isDay(text: string, order: string): boolean {
  const found = /^(\d{1,4})([-/.])(\d{1,2})\2(\d{1,4})$/.exec(text)
  if (!found) return false
  const parts = [found[1]!, found[3]!, found[4]!]
  const by = parts[0]!.length === 4 ? 'ymd' : order
  const [year, month, day] = ['y', 'm', 'd'].map((part) => parts[by.indexOf(part)]!)
  if (year!.length !== 4 || month!.length > 2 || day!.length > 2) return false
  const [y, m, d] = [Number(year), Number(month), Number(day)]
  const last = [31, y % 4 === 0 && (y % 100 !== 0 || y % 400 === 0) ? 29 : 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31][m - 1]
  return y > 0 && last !== undefined && d >= 1 && d <= last
}
