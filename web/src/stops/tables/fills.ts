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
