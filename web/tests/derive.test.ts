/** Sentences that recode, written from what becomes of each value. */
import { describe, expect, it } from 'vitest'

import { banding, becomesOf, coding, cutAt, moved, parted, quoted, recoding, restOf, theming, together } from '@/stops/derive/sentence'

const side = (code: string, label = '', reading: 'valid' | 'missing' | 'blank' | 'stray' = 'valid') => ({ code, label, reading, count: 1, low: null, high: null, different: 1 })
const old = [side('1', 'Own'), side('2', 'Shared'), side('3', 'Waiting'), side('-9', 'Refused', 'missing'), side('', 'blank', 'blank'), side('8', '', 'stray')]
const band = (low: string | null, high: string | null, label: string | null = null, below = false) => ({ low, high, above: false, below, label })

describe('what becomes of values', () => {
  it('is read off the ribbons: what stays is not named', () => {
    const now = [side('1', 'Holds'), side('-9', 'Refused', 'missing'), side('', 'blank', 'blank'), side('8', '', 'stray')]
    const ribbons = [[0, 0], [1, 0], [2, 2], [3, 1], [4, 2], [5, 3]].map(([from, to]) => ({ old: from!, new: to!, count: 1, low: null, high: null }))
    expect(becomesOf({ old, new: now, ribbons, records: 6 })).toEqual(['1', '1', '', null, null, null])
  })
  it('is written line by line, new codes in the order of their labels', () => {
    const labels = new Map([['1', "Holds a 'plot'"], ['0', 'Waiting']])
    expect(recoding('tenure', old, ['1', '1', '0', null, null, ''], labels, false)).toBe("recode tenure: 1, 2 -> 1 'Holds a \\'plot\\''; 3 -> 0 'Waiting'; 8 -> blank")
    expect(quoted('a\nb\\')).toBe("'a b\\\\'")
    expect(recoding('begun', [side('18:00'), side('2026-05-03')], ['1', '2'], new Map(), false)).toBe('recode begun: 18:00 -> 1; 2026-05-03 -> 2')
  })
})

describe('codes of texts', () => {
  const texts = [side('Beans'), side('Kale'), side('beans')]
  const labels = new Map([['1', 'Beans'], ['2', 'Kale']])
  it('keep their labels when two of them change places', () => {
    expect(coding('crop', texts, ['1', '2', '1'], labels)).toBe("codes crop: 'Beans', 'beans' 1; 'Kale' 2")
    const found = moved(['1', '2', '1'], labels, '2', -1)!
    expect(coding('crop', texts, found.becomes, found.labels)).toBe("codes crop: 'Kale' 1; 'Beans', 'beans' 2")
    expect(moved(['1', '2', '1'], labels, '1', -1)).toBeNull()
  })
})

describe('bands', () => {
  it('are parted between whole numbers, and at a value of others', () => {
    const bands = [band(null, '9'), band('10', '14', 'some'), band('15', null)]
    expect(banding('hours', cutAt(bands, 0, 6, true))).toBe("bands hours: .. 6; 7 .. 14 'some'; 15 ..")
    expect(banding('rent', cutAt([band(null, '9', null, true), band('9', null)], 0, 7.5, false))).toBe('bands rent: .. below 7.5; 7.5 ..')
  })
})

describe('themes', () => {
  it('have key words, and answers that were assigned by hand; those without either are left out', () => {
    const themes = [{ label: 'Paths', words: ['path', 'gravel'], whole: ["It's muddy"] }, { label: 'Water', words: [], whole: [] }]
    expect(theming('comment', themes)).toBe("mentions comment: 'Paths' where 'path', 'gravel', = 'It\\'s muddy'")
  })
})

describe('lines of a sentence', () => {
  it('are parted where nothing is quoted, and put together the same', () => {
    const text = "split `my: tools` by ';': 'spade; big'; 'it\\'s; so', 'Hoe'; else 'x: y'"
    expect(parted(text)).toEqual({ head: "split `my: tools` by ';':", lines: ["'spade; big'", "'it\\'s; so', 'Hoe'", "else 'x: y'"] })
    expect(together(parted(text)!)).toBe(text)
    expect(together(parted('bands hours: .. 4; 5 ..')!)).toBe('bands hours: .. 4; 5 ..')
  })
  it('are none where a sentence has no lines', () => {
    expect(parted('mean(site_1, site_2)')).toBeNull()
    expect(parted("recode = 'a: b'")).toBeNull()
    expect(parted('recode tenure:')).toEqual({ head: 'recode tenure:', lines: [''] })
  })
})

describe('everything else', () => {
  it('stays when lines are written anew', () => {
    expect(restOf("codes crop: 'Beans' 1; 'else' 2; else 9 'Other; rare'")).toBe("; else 9 'Other; rare'")
    expect(restOf("recode tenure: 1 -> 'else blank'")).toBe('')
  })
})
