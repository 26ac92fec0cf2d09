/** What a click on a row's stub means for how a file is read. */
import type { Settings } from './intake'

export type Role = 'names' | 'wordings' | 'data'

export const ROLES: Record<Role, string> = { names: 'names here', wordings: 'wordings here', data: 'data from here' }

/** What a row is taken for; rows count from 1 in the picture. */
export function roleOf(settings: Settings, row: number): Role | 'above' | '' {
  if (row === settings.names_row) return 'names'
  if (row === settings.wordings_row) return 'wordings'
  const begin = firstDataRow(settings)
  if (row === begin) return 'data'
  return row < begin ? 'above' : ''
}

export const firstDataRow = (settings: Settings): number =>
  settings.data_row ?? Math.max(settings.names_row ?? 0, settings.wordings_row ?? 0) + 1

type Rows = Pick<Settings, 'names_row' | 'wordings_row' | 'data_row'>

/** What is set once a row has been marked; marking it again takes the mark away. The data stay behind the heads. */
export function marked(settings: Settings, role: Role, row: number): Rows {
  const next: Rows = { names_row: settings.names_row, wordings_row: settings.wordings_row, data_row: settings.data_row }
  if (role === 'data') {
    next.data_row = row
    if ((next.names_row ?? 0) >= row) next.names_row = null
    if ((next.wordings_row ?? 0) >= row) next.wordings_row = null
    return next
  }
  const [mine, other] = role === 'names' ? (['names_row', 'wordings_row'] as const) : (['wordings_row', 'names_row'] as const)
  const begin = firstDataRow(settings)
  const behind = Math.max(settings.names_row ?? 0, settings.wordings_row ?? 0) + 1
  next[mine] = settings[mine] === row ? null : row
  if (next[other] === next[mine]) next[other] = null
  const heads = Math.max(next.names_row ?? 0, next.wordings_row ?? 0)
  next.data_row = begin === behind ? heads + 1 : Math.max(begin, heads + 1)
  return next
}

/** How many rows are left out at the end when a row of the foot (from 0) is the first of them; blank ones do not count. */
export const rowsBelow = (foot: string[][], first: number): number => foot.slice(first).filter(filled).length

export const filled = (row: string[]): boolean => row.some((cell) => cell.trim() !== '')

/** For each row of the foot whether it is left out. */
export function leftOut(foot: string[][], below: number): boolean[] {
  let left = below
  const out = foot.map(() => false)
  for (let index = foot.length - 1; index >= 0; index--) {
    if (!filled(foot[index]!)) out[index] = true
    else if (left-- > 0) out[index] = true
    else break
  }
  return out
}
