/** Tables as text between programs: entries parted by tabs, rows by line ends, quoted where they hold either. */

/** The rows of a pasted text; all are as wide as the widest. */
export function rowsOf(text: string): string[][] {
  const rows: string[][] = [[]]
  let [entry, quoted, at] = ['', false, 0]
  let closed = true // once a quote has no counterpart, none behind it has
  const close = (): void => {
    rows.at(-1)!.push(entry)
    entry = ''
  }
  for (; at < text.length; at++) {
    const sign = text[at]!
    if (quoted) {
      if (sign !== '"') entry += sign
      else if (text[at + 1] === '"') entry += text[++at]
      else quoted = false
    } else if (sign === '"' && !entry && closed && (closed = closes(text, at))) quoted = true
    else if (sign === '\t') close()
    else if (sign === '\n' || sign === '\r') {
      if (sign === '\r' && text[at + 1] === '\n') at++
      close()
      rows.push([])
    } else entry += sign
  }
  if (entry || rows.at(-1)!.length) close()
  else rows.pop()
  const width = rows.reduce((most, row) => Math.max(most, row.length), 0)
  return rows.map((row) => [...row, ...Array<string>(width - row.length).fill('')])
}

/** Whether a quote at the begin of an entry has its counterpart at an end of one: `5" pipe` has none. */
function closes(text: string, from: number): boolean {
  for (let at = text.indexOf('"', from + 1); at >= 0; at = text.indexOf('"', at + 1)) {
    if (text[at + 1] === '"') at++
    else return at + 1 === text.length || /[\t\r\n]/.test(text[at + 1]!)
  }
  return false
}

/** Rows as text to be pasted elsewhere. */
export function textOf(rows: readonly (readonly string[])[]): string {
  const quoted = (entry: string): string => (/[\t\r\n]|^"/.test(entry) ? `"${entry.replaceAll('"', '""')}"` : entry)
  return rows.map((row) => row.map(quoted).join('\t')).join('\n')
}
