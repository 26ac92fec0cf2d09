/**
 * A scroll height that browsers can draw, for more than they can: above some 30 million pixels they cut an element off.
 *
 * A short way is gone pixel by pixel, so that rows move as they are pushed; a long one, as a dragged scroll bar goes it,
 * as far of the whole as the bar goes of its own. At rest the bar is put where it belongs.
 */

/** Pixels of the tallest element that is drawn. */
export const TALLEST = 8_000_000
/** Pixels at both ends that are as many of the element: there a pushed row never runs out of bar. */
const PLAIN = 200_000

export class Mapped {
  /** Pixels by which what is shown lies further down than its element says. */
  shift = 0
  private whole = 0
  private view = 0
  private at = 0

  /** Says how many pixels there are in all, and how many are in sight. */
  measure(whole: number, view: number): void {
    ;[this.whole, this.view] = [whole, view]
    if (whole <= TALLEST) this.shift = 0
  }

  get height(): number {
    return Math.min(this.whole, TALLEST)
  }

  private get mapped(): boolean {
    return this.whole > TALLEST
  }

  /** How far one is down of all, when the element is scrolled so far. */
  seen(scrolled: number): number {
    if (!this.mapped) return scrolled
    const moved = Math.abs(scrolled - this.at)
    this.at = scrolled
    const atEnd = moved >= 1 && (scrolled <= 0 || scrolled >= this.height - this.view)
    if (moved > 3 * this.view || atEnd) this.shift = this.far(scrolled) - scrolled
    return Math.min(Math.max(scrolled + this.shift, 0), this.whole - this.view)
  }

  /** How far the element is to be scrolled to be so far down of all. */
  to(down: number): number {
    if (!this.mapped) return down
    const [range, bar] = [this.whole - this.view, this.height - this.view]
    const bounded = Math.min(Math.max(down, 0), range)
    this.at = Math.round(between(bounded, range, bar))
    this.shift = bounded - this.at
    return this.at
  }

  private far(scrolled: number): number {
    return between(scrolled, this.height - this.view, this.whole - this.view)
  }
}

/** A place on a way as the same place on another: alike at both ends, in proportion between. */
function between(at: number, way: number, other: number): number {
  if (at <= PLAIN) return at
  if (at >= way - PLAIN) return other - (way - at)
  return PLAIN + ((at - PLAIN) * (other - 2 * PLAIN)) / (way - 2 * PLAIN)
}
