/** Tables as text between programs. */
import { describe, expect, it } from 'vitest'

import { rowsOf, textOf } from '@/stops/records/table'

describe('pasted text', () => {
  it.each([
    ['a\tb\n1\t2\n', [['a', 'b'], ['1', '2']]],
    ['a\tb\r\n1\t2', [['a', 'b'], ['1', '2']]],
    ['a\n\n1\n', [['a'], [''], ['1']]],
    ['a\tb\tc\n1\n', [['a', 'b', 'c'], ['1', '', '']]],
    ['"two\nlines"\tx\n', [['two\nlines', 'x']]],
    ['"say ""no"""\t', [['say "no"', '']]],
    ['5" pipe\t"loose\n', [['5" pipe', '"loose']]],
    ['"a" b\tc', [['"a" b', 'c']]],
    ['', []],
    ['7', [['7']]],
  ])('%j', (text, rows) => expect(rowsOf(text)).toEqual(rows))

  it('comes back as it went', () => {
    const rows = [['a\tb', '"', 'x"y'], ['', 'two\nlines', ' ']]
    expect(rowsOf(textOf(rows))).toEqual(rows)
  })

  it('is read in time that grows with it, whatever its quotes', () => {
    const took = [1, 4].map((times) => {
      const begun = performance.now()
      rowsOf('"a\t'.repeat(50_000 * times))
      return performance.now() - begun
    })
    expect(took[1]!).toBeLessThan(20 * Math.max(took[0]!, 5))
  })
})
