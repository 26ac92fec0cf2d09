/**
 * Keys: one table of what they are called and pressed, from which the finder's hints come too; who can do something
 * binds it by its name while they are there. The one that was bound last goes first.
 */
import { useEventListener } from '@vueuse/core'
import { onBeforeUnmount } from 'vue'

import { PANELS } from '@/stops/codebook/panels'
import { STOPS } from './stops'

interface Key {
  /** As `keysOf` writes them. */
  keys: string[]
  /** Whether they work while something is typed. */
  typing?: boolean
}

const ALONE = {
  find: { keys: ['Ctrl+k'], typing: true },
  'side sheet': { keys: ['Alt+s'], typing: true },
  show: { keys: ['Alt+c'], typing: true },
  undo: { keys: ['Ctrl+z'] },
  redo: { keys: ['Ctrl+Shift+z', 'Ctrl+y'] },
  'new record': { keys: ['Ctrl+Enter'], typing: true },
  'next stray': { keys: ['F8'], typing: true },
  'previous stray': { keys: ['Shift+F8'], typing: true },
  replace: { keys: ['Ctrl+h'], typing: true },
  'read on': { keys: ['Alt+r'], typing: true },
  'next answer': { keys: ['Alt+ArrowDown'] },
  'previous answer': { keys: ['Alt+ArrowUp'] },
  comment: { keys: ['Alt+m'], typing: true },
  'key in': { keys: ['Alt+k'], typing: true },
  'go to record': { keys: ['Ctrl+g'], typing: true },
  'bring in': { keys: ['Ctrl+Enter'], typing: true },
  derive: { keys: ['Ctrl+Enter'], typing: true },
  'take differences': { keys: ['Ctrl+Enter'] },
  'keep amendment': { keys: ['Ctrl+Enter'], typing: true },
  'leave amendment': { keys: ['Escape'], typing: true },
  'leave comparison': { keys: ['Escape'] },
  'filter tags': { keys: ['/'] },
  'add line': { keys: ['a'] },
} satisfies Record<string, Key>

export type KeyName = keyof typeof ALONE | `stop ${string}` | `panel ${string}`

export const KEYS: Record<string, Key> = {
  ...ALONE,
  ...Object.fromEntries(STOPS.map((stop, at) => [`stop ${stop.name}`, { keys: [`Alt+${at + 1}`], typing: true }])),
  ...Object.fromEntries(PANELS.map((panel) => [`panel ${panel.name}`, { keys: [panel.key] }])),
}

/** The keys of something, as people read them: "Ctrl+Z". */
export function shown(name: KeyName): string {
  const [keys = ''] = KEYS[name]?.keys ?? []
  return keys.replace(/(^|\+)([a-z])$/, (_, before: string, letter: string) => before + letter.toUpperCase())
}

interface Layer {
  actions: Partial<Record<KeyName, () => void>>
  /** Whether they are meant by a press here. */
  when: (event: KeyboardEvent) => boolean
}

const layers: Layer[] = []

/** Binds actions to the keys of their names, while the component is there and `when` says so. */
export function useKeys(actions: Layer['actions'], when: Layer['when'] = () => true): void {
  const layer = { actions, when }
  layers.push(layer)
  onBeforeUnmount(() => layers.splice(layers.indexOf(layer), 1))
}

/** Listens for all of them. */
export function useAllKeys(): void {
  useEventListener(window, 'keydown', (event) => {
    const action = event.defaultPrevented ? null : meant(event)
    if (!action) return
    event.preventDefault()
    action()
  })
}

function meant(event: KeyboardEvent): (() => void) | null {
  const pressed = keysOf(event)
  const typing = (event.target as HTMLElement).closest?.('input, textarea, select, [contenteditable], [role="menu"]') != null
  for (const layer of [...layers].reverse()) {
    for (const [name, action] of Object.entries(layer.actions)) {
      const key = KEYS[name]
      if (key?.keys.includes(pressed) && (!typing || key.typing) && layer.when(event)) return action ?? null
    }
  }
  return null
}

/** A key press as it is written in the table: "Ctrl+Shift+z". */
export function keysOf(event: KeyboardEvent): string {
  const letter = event.key.length === 1
  const shift = event.shiftKey && (!letter || event.ctrlKey || event.metaKey || event.altKey)
  const held = [event.ctrlKey || event.metaKey ? 'Ctrl' : '', event.altKey ? 'Alt' : '', shift ? 'Shift' : '']
  return [...held.filter(Boolean), letter ? event.key.toLowerCase() : event.key].join('+')
}
