/** How a line of a document is set: documents are kept as plain text, with the signs that people set plain text by. */

export interface Setting {
  kind: 'heading' | 'page' | 'ruler' | 'row' | 'flow' | 'term' | 'meaning' | 'item' | 'plain'
  /** Level of a heading, else how far in it stands. */
  depth: number
  /** The number or bullet of an item. */
  mark: string
  /** What is read, cell by cell; one of a line that is no table's. */
  cells: string[]
}

/** Characters from which on a cell among several others is too long for a narrow column. */
const LONG = 24

const bare = (text: string): string => text.replace(/\*\*(?=\S)(.+?)(?<=\S)\*\*/g, '$1')

/** The cells of a line, one of each column; none where it is no row of a table. */
export function cellsOf(line: string): string[] {
  if (line.length < 3 || !line.startsWith('|') || !line.endsWith('|')) return []
  return line.slice(1, -1).split(/(?<!\\)\|/).map((cell) => bare(cell.trim()).replaceAll('\\|', '|').replaceAll('<br>', '\n'))
}

/** How a line is set. */
export function settingOf(line: string): Setting {
  const plain = { depth: 0, mark: '' }
  let found: RegExpExecArray | null
  if ((found = /^(#{1,6})\s+(\S.*)$/.exec(line))) return { ...plain, kind: 'heading', depth: found[1]!.length, cells: [bare(found[2]!)] }
  if ((found = /^--- page (\d+) ---$/.exec(line))) return { ...plain, kind: 'page', cells: [`page ${found[1]}`] }
  if (/^\|(?:\s*:?-{2,}:?\s*\|)+$/.test(line)) return { ...plain, kind: 'ruler', cells: [''] }
  const cells = cellsOf(line)
  if (cells.length) {
    // More columns of words than stand side by side here follow one another.
    if (cells.length > 3 && cells.slice(1).some((cell) => cell.length > LONG)) return { ...plain, kind: 'flow', cells: cells.filter(Boolean) }
    return { ...plain, kind: 'row', cells }
  }
  if ((found = /^\*\*([^*]+)\*\*$/.exec(line))) return { ...plain, kind: 'term', cells: [found[1]!] }
  if ((found = /^: (\S.*)$/.exec(line))) return { ...plain, kind: 'meaning', depth: 1, cells: [bare(found[1]!)] }
  if ((found = /^(\s*)(?:(-) |(\S{1,8})\t)(\S.*)$/.exec(line))) {
    const mark = found[2] ? '•' : bare(found[3]!)
    return { kind: 'item', depth: Math.ceil(found[1]!.length / 2), mark, cells: [bare(found[4]!)] }
  }
  return { ...plain, kind: 'plain', cells: [bare(line)] }
}
