/** Takes a table along as it is shown: as a table for word processors, as text between tabs for spreadsheets. */
import { attempt, say } from '@/study/notices'

const BORDER = 'border-collapse: collapse'

interface Cell {
  text: string
  span: number
  head: boolean
  number: boolean
}

function cell(element: HTMLElement, head: boolean, span = 1): Cell {
  const shown = element.innerText.replace(/\s+/g, ' ').trim()
  const number = /^-?[\d,]+(\.\d+)?$/.test(shown)
  return { text: number ? shown.replaceAll(',', '') : shown, span, head, number }
}

/** What a card shows, row by row as it is read, without pictures; numbers without marks between thousands. */
function rowsOf(card: HTMLElement): Cell[][] {
  return [...card.querySelectorAll<HTMLElement>('tr, dl > div, h3')].flatMap((row) => {
    if (row.tagName === 'H3') return [[cell(row, true)]]
    const cells = [...row.children].filter((each) => !each.classList.contains('picture')) as HTMLElement[]
    const found = cells.map((each) => cell(each, ['TH', 'DT'].includes(each.tagName), (each as HTMLTableCellElement).colSpan || 1))
    return found.length ? [found] : []
  })
}

const escaped = (text: string): string => text.replaceAll('&', '&amp;').replaceAll('<', '&lt;')

/** A card is taken along with what is said at its foot. */
export async function copyCard(card: HTMLElement, title: string): Promise<void> {
  const foot = [...card.querySelectorAll<HTMLElement>('[data-foot]')].map((each) => each.innerText).join(' ')
  const rows = rowsOf(card)
  const plain = [title, ...rows.map((row) => row.flatMap(({ text, span }) => [text, ...Array<string>(span - 1).fill('')]).join('\t')), foot]
  const written = ({ text, span, head, number }: Cell): string => {
    const name = head ? 'th' : 'td'
    return `<${name}${span > 1 ? ` colspan="${span}"` : ''} style="text-align: ${number ? 'right' : 'left'}">${escaped(text)}</${name}>`
  }
  const body = rows.map((row) => `<tr>${row.map(written).join('')}</tr>`).join('')
  const html = `<table style="${BORDER}"><caption>${escaped(title)}</caption>${body}</table><p>${escaped(foot)}</p>`
  const kinds = { 'text/html': html, 'text/plain': plain.filter(Boolean).join('\n') }
  const item = new ClipboardItem(Object.fromEntries(Object.entries(kinds).map(([kind, text]) => [kind, new Blob([text], { type: kind })])))
  const done = await attempt(() => navigator.clipboard.write([item]).then(() => true))
  if (done) say(`Copied “${title}” as a table.`)
}
