/** Figures, times, dates and names as people read and look for them. */
import { describe, expect, it } from 'vitest'

import type { TagStrip } from '@/api/client'
import { dated, dateOf, daysOf } from '@/parts/dates'
import { matching } from '@/stops/codebook/find'
import { bytes, clock, count, counted, figure, percent } from '@/study/shown'

describe('figures', () => {
  it('are counted in words', () => {
    expect(count(1_204_000)).toBe('1,204,000')
    expect([counted(1, 'record'), counted(0, 'record'), counted(1_204, 'record')]).toEqual(['1 record', '0 records', '1,204 records'])
    expect([counted(1, 'entry', 'entries'), counted(2, 'entry', 'entries')]).toEqual(['1 entry', '2 entries'])
  })

  it('are written as entries are: without marks between thousands, and no finer than anybody reads', () => {
    expect([figure(12), figure(12_345), figure(0), figure(-3)]).toEqual(['12', '12345', '0', '-3'])
    expect([figure(1 / 3), figure(2.5), figure(123.456), figure(12_345.678)]).toEqual(['0.3333', '2.5', '123.5', '12345.7'])
    expect([figure(null), figure(undefined)]).toEqual(['–', '–'])
    expect([percent(33.333), percent(0), percent(null)]).toEqual(['33.3', '0.0', ''])
  })

  it('of files are in bytes, and in kB and MB where these are many', () => {
    expect([bytes(0), bytes(1023), bytes(1024), bytes(1536), bytes(1024 ** 2), bytes(45_900_000)]).toEqual(['0 bytes', '1023 bytes', '1 kB', '1.5 kB', '1 MB', '43.77 MB'])
  })
})

describe('dates', () => {
  it('stand in the pattern of their tag, with the time behind them', () => {
    expect(dated('2026-05-03', 'dd.mm.yyyy')).toBe('03.05.2026')
    expect(dated('2026-05-03', 'mm/dd/yyyy')).toBe('05/03/2026')
    expect(dated('2026-05-03T18:30', 'dd/mm/yyyy')).toBe('03/05/2026T18:30')
    expect(dated('2026-05-03', 'yyyy-mm-dd')).toBe('2026-05-03')
  })

  it('that are none are left as they are', () => {
    expect([dated('soon', 'dd.mm.yyyy'), dated('', 'dd.mm.yyyy'), dated('18:30', 'dd.mm.yyyy')]).toEqual(['soon', '', '18:30'])
  })

  it('are days, and back, before 1970, too', () => {
    for (const date of ['1970-01-01', '1969-12-31', '2026-02-28', '2024-02-29', '1900-01-01']) expect(dateOf(daysOf(date))).toBe(date)
    expect([daysOf('1970-01-02'), daysOf('1969-12-31')]).toEqual([1, -1])
  })

  it('of the diary tell the time of day', () => {
    expect(clock(new Date(2026, 4, 3, 9, 42).toISOString())).toBe('09:42')
  })
})

describe('finding tags', () => {
  const tag = (name: string, label = '', question = '', former: string[] = []): TagStrip => ({ name, label, question, former }) as unknown as TagStrip
  const tags = [tag('hours', 'Hours in a usual week'), tag('tenure', 'How the plot is held', 'How do you hold your plot?'), tag('plot_size', 'Size of the plot', '', ['V7'])]
  const found = (text: string): string[] => matching(tags, text).map((each) => each.name)

  it('looks in names, labels, questions and former names, whatever the case', () => {
    expect(found('HOURS')).toEqual(['hours'])
    expect(found('do you hold')).toEqual(['tenure'])
    expect(found('v7')).toEqual(['plot_size'])
    expect(found('plot')).toEqual(['tenure', 'plot_size'])
  })

  it('wants every word, in any order and place', () => {
    expect(found('week usual')).toEqual(['hours'])
    expect(found('plot size')).toEqual(['plot_size'])
    expect(found('plot week')).toEqual([])
  })

  it('without a word finds all of them', () => {
    expect(found('  ')).toEqual(['hours', 'tenure', 'plot_size'])
  })
})
