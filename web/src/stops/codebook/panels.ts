/** What can be done with the chosen tags: one table for buttons, keys and the finder. */

export interface PanelKind {
  name: string
  word: string
  title: string
  /** Pressed where nothing is typed. */
  key: string
}

export const PANELS: PanelKind[] = [
  { name: 'stamp', word: 'Stamp', title: 'Put parts of this tag onto others', key: 's' },
  { name: 'names', word: 'Names', title: 'Rename by a pattern or from two columns', key: 'n' },
  { name: 'missing', word: 'Missing', title: 'Find and declare missing codes', key: 'm' },
  { name: 'lists', word: 'Lists', title: 'Share code lists between tags', key: 'l' },
  { name: 'battery', word: 'Battery', title: 'Group tags as a battery', key: 'b' },
  { name: 'widths', word: 'Widths', title: 'Trim widths to what entries need', key: 'w' },
  { name: 'readings', word: 'Types', title: 'Compare how entries read under other types', key: 't' },
  { name: 'clear', word: 'Clear', title: 'Clear labels, lists and other parts', key: 'c' },
  { name: 'text', word: 'Text', title: 'Copy or edit tags as codebook text', key: 'x' },
  { name: 'new', word: 'New', title: 'Add variables', key: '+' },
]
