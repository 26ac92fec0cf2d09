/**
 * Fills of the parts of a bar: told apart by colour and by pattern, so that they are in grey print too. The first are
 * the darkest; where there are more parts than fills, they begin again.
 */
const stripes = (angle: number, on: string, off: string, width = 3): string =>
  `repeating-linear-gradient(${angle}deg, ${on} 0 ${width}px, ${off} ${width}px ${2 * width}px)`

const FILLS: readonly string[] = [
  'var(--leaf)',
  stripes(90, 'color-mix(in srgb, var(--leaf) 55%, var(--white))', 'var(--leaf-pale)'),
  stripes(0, 'var(--straw)', 'var(--white)', 2),
  'var(--soil)',
  stripes(45, 'var(--beet)', 'var(--white)', 2),
  'var(--line2)',
  stripes(135, 'var(--ink)', 'var(--white)', 1),
  stripes(45, 'var(--soil)', 'var(--straw-pale)'),
]

/** The fill of the part at a place. */
export const fillOf = (at: number): { background: string } => ({ background: FILLS[at % FILLS.length]! })

/** From one end of a list to the other, the middle pale: what is agreed to and what is not stand apart in grey, too. */
const LOW = ['var(--soil)', 'var(--straw)', 'var(--straw-pale)']
const HIGH = ['var(--leaf)', 'color-mix(in srgb, var(--leaf) 45%, var(--white))', 'var(--leaf-pale)']
const MIDDLE = 'var(--line)'

/** The fill of an answer at a place of a list of so many, around its middle; and whether white text is read on it. */
export function fillAround(at: number, of: number): { background: string; dark: boolean } {
  const other = of - 1 - at
  if (at === other) return { background: MIDDLE, dark: false }
  const [side, end] = at < other ? [LOW, at] : [HIGH, other]
  const steps = Math.floor(of / 2) - 1
  const shade = steps > 0 ? Math.round((end * (of > 5 ? 2 : 1)) / steps) : 0
  return { background: side[Math.min(shade, 2)]!, dark: shade === 0 }
}
