/** More pixels than a browser draws. */
import { describe, expect, it } from 'vitest'

import { Mapped, TALLEST } from '@/parts/mapped'

const [WHOLE, VIEW] = [33_000_050, 600]

function mapped(whole = WHOLE): Mapped {
  const map = new Mapped()
  map.measure(whole, VIEW)
  return map
}

describe('a mapped scroll height', () => {
  it('is as it is where it can be drawn', () => {
    const map = mapped(TALLEST)
    expect([map.height, map.seen(1234), map.to(77), map.shift]).toEqual([TALLEST, 1234, 77, 0])
  })

  it('goes a short way pixel by pixel, up and down, wherever one is', () => {
    const map = mapped()
    let at = map.to(20_000_000)
    for (const by of [120, 120, -40, 600, -1200, 3]) {
      const before = map.seen(at)
      at += by
      expect(map.seen(at) - before).toBeCloseTo(by)
    }
  })

  it('goes a long way as far of the whole as the bar goes of its own', () => {
    const map = mapped()
    expect(map.seen(TALLEST / 2) / WHOLE).toBeCloseTo(0.5, 3)
    expect(map.seen(TALLEST - VIEW)).toBe(WHOLE - VIEW)
    expect(map.seen(0)).toBe(0)
  })

  it('reaches every row, and both ends', () => {
    const map = mapped()
    for (const down of [0, 1, 33, 16_500_000, 32_999_000, WHOLE - VIEW]) expect(map.seen(map.to(down))).toBeCloseTo(down)
    for (const end of [0, WHOLE - VIEW]) {
      let at = map.to(Math.abs(end - 5000))
      for (let step = 0; step < 50; step++) {
        const before = map.seen(at)
        at += end ? 100 : -100
        expect(Math.abs(map.seen(at) - before)).toBeCloseTo(100)
      }
      expect(map.seen(at)).toBe(end)
    }
  })
})
