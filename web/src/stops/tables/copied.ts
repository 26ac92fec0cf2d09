/** Takes a table along as it is shown: as a table for word processors, as text between tabs for spreadsheets. */
import { attempt, say } from '@/study/notices'

const BORDER = 'border-collapse: collapse'

/** The cells of a table as they are read, without pictures; numbers without marks between thousands. */
function cellsOf(table: HTMLTableElement): { text: string; span: number; head: boolean; number: boolean }[][] {
  return [...table.rows].map((row) =>
    [...row.cells]
      .filter((cell) => !cell.classList.contains('picture'))
      .map((cell) => {
        const shown = cell.innerText.replace(/\s+/g, ' ').trim()
        const number = /^-?[\d,]+(\.\d+)?$/.test(shown)
        return { text: number ? shown.replaceAll(',', '') : shown, span: cell.colSpan, head: cell.tagName === 'TH', number }
      }),
  )
}

const escaped = (text: string): string => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;')

export async function copyTable(table: HTMLTableElement, title: string, foot: string): Promise<void> {
  const rows = cellsOf(table)
  const plain = [title, ...rows.map((row) => row.flatMap(({ text, span }) => [text, ...Array<string>(span - 1).fill('')]).join('\t')), foot]
  const cell = ({ text, span, head, number }: (typeof rows)[number][number]): string => {
    const name = head ? 'th' : 'td'
    return `<${name}${span > 1 ? ` colspan="${span}"` : ''} style="text-align: ${number ? 'right' : 'left'}">${escaped(text)}</${name}>`
  }
  const body = rows.map((row) => `<tr>${row.map(cell).join('')}</tr>`).join('')
  const html = `<table style="${BORDER}"><caption>${escaped(title)}</caption>${body}</table><p>${escaped(foot)}</p>`
  const kinds = { 'text/html': html, 'text/plain': plain.filter(Boolean).join('\n') }
  const item = new ClipboardItem(Object.fromEntries(Object.entries(kinds).map(([kind, text]) => [kind, new Blob([text], { type: kind })])))
  const done = await attempt(() => navigator.clipboard.write([item]).then(() => true))
  if (done) say(`Copied “${title}” as a table.`)
}
