import { beforeEach, describe, expect, it } from 'vitest'

import { Keyed, marks, type Question, unfit, type Variable } from '@/stops/keying/keyed'

const variable = (name: string, more: Partial<Variable> = {}): Variable => ({
  id: name, name, label: '', question: '', type: 'integer', use: 'answer', coded: true, complete: true, low: null, high: null,
  decimal: '.', date_order: 'ymd', answers: [], skips: {}, ...more,
})
const answers = (...codes: string[]): Variable['answers'] =>
  codes.map((code) => ({ code, label: '', reason: code === '-8' ? "don't know" : code === '-9' ? 'refused' : code === '-7' ? 'not asked' : null }))
const question = (kind: Question['kind'], ...variables: Variable[]): Question => ({ kind, title: '', wording: '', section: '', variables })

const plot = variable('plot', { coded: false, type: 'text', use: 'identifier' })
const holds = variable('holds', { answers: answers('1', '2', '-8', '-9', '-7'), skips: { '2': ['hours', 'crop'] } })
const hours = variable('hours', { coded: false, low: '0', high: '80', answers: answers('-9') })
const crop = variable('crop', { answers: answers('1', '2', '11', '12') })
const site = [1, 2].map((at) => variable(`site_${at}`, { answers: answers('1', '2', '3') }))
const grown = [1, 2, 3].map((at) => variable(`grown_${at}`, { answers: answers('1', '0', '-9'), use: 'several answers' }))
const ranks = [1, 2, 3].map((at) => variable(`rank_${at}`, { label: `thing ${at}`, answers: answers('1', '2', '3') }))
const QUESTIONS = [question('one', plot), question('one', holds), question('one', hours), question('one', crop), question('grid', ...site), question('ticks', ...grown), question('ranks', ...ranks)]

describe('keying a record', () => {
  let kept: Record<string, string>
  let ended: number
  let keyed: Keyed
  const press = (keys: string): void => [...keys].forEach((key) => keyed.press(key === '↵' ? 'Enter' : key === '←' ? 'Backspace' : key))
  const here = (): string => keyed.stop!.variable.name

  beforeEach(() => {
    kept = {}
    ended = 0
    keyed = new Keyed(QUESTIONS, (id, entry) => (kept[id] = entry), () => ended++)
  })

  it('goes from question to question by one key each, and ends behind the last', () => {
    keyed.typed('F007')
    press('1')
    keyed.typed('12')
    press('2')
    press('33')
    press('13↵')
    press('213')
    expect(kept).toEqual({
      plot: 'F007', holds: '1', hours: '12', crop: '2', site_1: '3', site_2: '3', grown_1: '1', grown_2: '0', grown_3: '1', rank_1: '2', rank_2: '1', rank_3: '3',
    })
    expect(ended).toBe(1)
  })

  it('waits for a second digit only where a code goes on', () => {
    keyed.go(3)
    press('1')
    expect(here()).toBe('crop')
    press('2')
    expect(kept.crop).toBe('12')
    keyed.go(3)
    press('1↵')
    expect(kept.crop).toBe('1')
    keyed.go(3)
    press('1←2')
    expect(kept.crop).toBe('2')
  })

  it('counts answers whose codes are words', () => {
    const age = variable('age', { type: 'text', answers: answers('under 35', '35 to 59', '60 and over', '-9') })
    keyed = new Keyed([question('one', age)], (id, entry) => (kept[id] = entry), () => ended++)
    press('3')
    expect([kept.age, ended]).toEqual(['60 and over', 1])
    keyed.turn()
    press('-9')
    expect(kept.age).toBe('-9')
  })

  it('has keys for missing answers, from the codes of the tag', () => {
    keyed.go(1)
    press('d')
    expect(kept.holds).toBe('-8')
    keyed.go(1)
    press('S')
    expect(kept.holds).toBe('-7')
    keyed.go(1)
    press('-9')
    expect(kept.holds).toBe('-9')
    keyed.go(1)
    press(' ')
    expect([kept.holds, here()]).toEqual(['', 'hours'])
  })

  it('questions a code outside the tag, and keeps it by Enter alone', () => {
    keyed.go(1)
    press('7')
    expect([kept.holds, keyed.doubt?.entry, here()]).toEqual([undefined, '7', 'holds'])
    press('77')
    expect([kept.holds, keyed.doubt?.entry, here()]).toEqual([undefined, '7', 'holds'])
    press('↵')
    expect([kept.holds, here()]).toEqual(['7', 'hours'])
    keyed.go(1)
    press('009')
    expect([kept.holds, keyed.doubt?.entry, here()]).toEqual(['7', '9', 'holds'])
    keyed.go(2)
    keyed.typed('99')
    expect([kept.hours, keyed.doubt?.entry]).toEqual([undefined, '99'])
    keyed.typed('9')
    expect(kept.hours).toBe('9')
    keyed.go(1)
    press('71')
    expect(kept.holds).toBe('1')
  })

  it('questions days and times that there are not', () => {
    const day = variable('visit', { coded: false, type: 'date', date_order: 'dmy' })
    const wrong = ['32.13.2025', '29.2.2025', '31.4.2026', '2026-13-01', '1.2.26', '0.1.2026', '5/3/2026x', '5/3.2026']
    expect(wrong.filter((entry) => !unfit(day, entry))).toEqual([])
    expect(['29.2.2024', '1-2-2026', '31/12/2025', '2026-05-03'].filter((entry) => unfit(day, entry))).toEqual([])
    expect(unfit({ ...day, date_order: 'mdy' }, '31/12/2025')).toContain('is no date')
    const time = variable('begun', { coded: false, type: 'time' })
    expect(['24:00', '10:60', '1:2'].filter((entry) => !unfit(time, entry))).toEqual([])
    const moment = variable('at', { coded: false, type: 'datetime', date_order: 'dmy' })
    expect(['3.5.2026 18:30', '2026-05-03T18:30:05'].filter((entry) => unfit(moment, entry))).toEqual([])
    expect(['3.5.2026', '30.2.2026 10:00', '3.5.2026 25:00'].filter((entry) => !unfit(moment, entry))).toEqual([])
  })

  it('passes by what an answer skips, and leaves it blank', () => {
    keyed.go(1)
    press('2')
    expect([here(), keyed.passed, kept.hours]).toEqual(['site_1', 2, undefined])
    keyed.back()
    expect(here()).toBe('crop')
  })

  it('ticks, takes ticks back, and says of the others that they are not', () => {
    keyed.go(6)
    press('121↵')
    expect([kept.grown_1, kept.grown_2, kept.grown_3]).toEqual(['0', '1', '0'])
    keyed.go(6)
    expect([...keyed.ticked]).toEqual(['grown_2'])
    press('r')
    expect(kept.grown_3).toBe('-9')
    keyed.go(6)
    press('0')
    expect([kept.grown_2, here()]).toEqual(['0', 'rank_1'])
  })

  it('questions a rank that is given twice', () => {
    keyed.go(7)
    press('22')
    expect([kept.rank_1, kept.rank_2, keyed.doubt?.why]).toEqual(['2', undefined, 'is the rank of thing 1 already'])
    press('2')
    expect(kept.rank_2).toBe(undefined)
    press('↵')
    expect(kept.rank_2).toBe('2')
  })

  it('keeps nothing that stands there already', () => {
    keyed.turn(new Map([['holds', '1'], ['plot', 'F1']]))
    keyed.typed('F1')
    press('1')
    expect([kept, here()]).toEqual([{}, 'hours'])
  })
})

describe('what fits', () => {
  it('is told of numbers, limits and dates as far as that is plain', () => {
    expect(unfit(hours, '12')).toBe('')
    expect(unfit(hours, '-9')).toBe('')
    expect(unfit(hours, '1.5')).toContain('whole number')
    expect(unfit(hours, '12 hrs')).toContain('no number')
    expect(unfit({ ...hours, type: 'decimal', decimal: ',' }, '1,5')).toBe('')
    expect(unfit({ ...hours, type: 'date' }, 'May')).toContain('no date')
    expect(unfit({ ...hours, type: 'date', date_order: 'dmy' }, '3.5.2026')).toBe('')
    expect(marks(variable('x', { answers: answers('1', '2') }))).toEqual({ on: '1', off: '2' })
    expect(marks(variable('x', { answers: answers('1') }))).toEqual({ on: '1', off: '' })
  })
})
