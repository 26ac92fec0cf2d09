/**
 * Keys: one table of what they are called and pressed, from which the finder's hints come too; who can do something
 * binds it by its name while they are there. The one that was bound last goes first.
 */
import { useEventListener, useLocalStorage } from '@vueuse/core'
import { onBeforeUnmount } from 'vue'

import { PANELS } from '@/stops/codebook/panels'
import { STOPS } from './stops'

interface Key {
  /** What it does, in a few words. */
  word: string
  /** The stop where it works, or everywhere. */
  where: string
  /** As `keysOf` writes them. */
  keys: string[]
  /** Whether they work while something is typed; a sign alone never does. */
  typing?: boolean
}

export const EVERYWHERE = 'Everywhere'

const ALONE = {
  find: { word: 'find a variable, a finding, or something to do', where: EVERYWHERE, keys: ['Ctrl+k'], typing: true },
  keys: { word: 'this page of keys', where: EVERYWHERE, keys: ['F1', '?'], typing: true },
  'side sheet': { word: 'the questionnaire or codebook beside the work', where: EVERYWHERE, keys: ['Alt+s'], typing: true },
  show: { word: 'codes, labels, or both', where: EVERYWHERE, keys: ['Alt+c'], typing: true },
  undo: { word: 'undo', where: EVERYWHERE, keys: ['Ctrl+z'] },
  redo: { word: 'redo', where: EVERYWHERE, keys: ['Ctrl+Shift+z', 'Ctrl+y'] },
  'filled button': { word: 'what the filled button says', where: EVERYWHERE, keys: ['Ctrl+Enter'], typing: true },
  'new record': { word: 'begin a new record', where: 'Records', keys: ['Ctrl+Enter'], typing: true },
  'go to record': { word: 'go to a record, a column, or both', where: 'Records', keys: ['Ctrl+g'], typing: true },
  'first difference': { word: 'to the first difference between keyings', where: 'Records', keys: ['f'] },
  'next stray': { word: 'next stray', where: 'Records', keys: ['F8'], typing: true },
  'previous stray': { word: 'stray before', where: 'Records', keys: ['Shift+F8'], typing: true },
  replace: { word: 'find and replace', where: 'Records', keys: ['Ctrl+h'], typing: true },
  'read on': { word: 'the whole text of an entry', where: 'Records', keys: ['Alt+r'], typing: true },
  'next answer': { word: 'the entry below, while one is read', where: 'Records', keys: ['Alt+ArrowDown'] },
  'previous answer': { word: 'the entry above, while one is read', where: 'Records', keys: ['Alt+ArrowUp'] },
  comment: { word: 'comment on an entry or a record', where: 'Records', keys: ['Alt+m'], typing: true },
  'key in': { word: 'key records in, each as its questionnaire', where: 'Records', keys: ['Alt+k'], typing: true },
  'bring in': { word: 'bring the file in', where: 'Intake', keys: ['Ctrl+Enter'], typing: true },
  derive: { word: 'derive', where: 'Derive', keys: ['Ctrl+Enter'], typing: true },
  'take differences': { word: 'take what was decided of a document', where: 'Codebook', keys: ['Ctrl+Enter'] },
  'leave comparison': { word: 'leave a document', where: 'Codebook', keys: ['Escape'] },
  'first code line': { word: 'to the first code line, or the first difference from a document', where: 'Codebook', keys: ['f'] },
  'first finding': { word: 'to the first finding', where: 'Checks', keys: ['f'] },
  'go to question': { word: 'go to a question by typing', where: 'Keyed entry', keys: ['Ctrl+g'], typing: true },
  'filter tags': { word: 'filter the tags', where: 'Codebook', keys: ['/'] },
  'add line': { word: 'add a code line', where: 'Codebook', keys: ['a'] },
  'keep amendment': { word: 'keep an amendment', where: 'Diary', keys: ['Ctrl+Enter'], typing: true },
  'leave amendment': { word: 'leave an amendment', where: 'Diary', keys: ['Escape'], typing: true },
} satisfies Record<string, Key>

export type KeyName = keyof typeof ALONE | `stop ${string}` | `panel ${string}`

export const KEYS: Record<string, Key> = {
  ...Object.fromEntries(
    STOPS.map((stop, at) => [`stop ${stop.name}`, { word: `go to ${stop.title}`, where: EVERYWHERE, keys: [`Alt+${at + 1}`], typing: true }]),
  ),
  ...ALONE,
  ...Object.fromEntries(PANELS.map((panel) => [`panel ${panel.name}`, { word: panel.title, where: 'Codebook', keys: [panel.key] }])),
}

/** Keys that somebody chose in place of the usual ones, by the names of what they do. */
const own = useLocalStorage<Record<string, string[]>>('row-tag-keys', {})

/** The keys of something now. */
export const keysFor = (name: string): string[] => own.value[name] ?? KEYS[name]?.keys ?? []

/** Whether somebody chose its keys. */
export const isOwn = (name: string): boolean => name in own.value

/** What else a key means where it would be pressed; null where it is free. */
export function taken(name: string, key: string): string | null {
  const here = KEYS[name]?.where
  const meets = (other: string): boolean => here === other || here === EVERYWHERE || other === EVERYWHERE
  const found = Object.entries(KEYS).find(([each, { where }]) => each !== name && meets(where) && keysFor(each).includes(key))
  return found ? found[1].word : null
}

/** Chooses a key for something; null gives it the usual ones again. */
export function choose(name: string, key: string | null): void {
  const others = Object.entries(own.value).filter(([each]) => each !== name)
  own.value = Object.fromEntries(key === null ? others : [...others, [name, [key]]])
}

/** A key as people read it: "Ctrl+Z". */
export const readable = (key: string): string =>
  key.replace(/(^|\+)([a-z])$/, (_, before: string, letter: string) => before + letter.toUpperCase()).replace('Arrow', '')

/** The keys of something, as people read them. */
export const shown = (name: KeyName): string => readable(keysFor(name)[0] ?? '')

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

/** Where text is typed, which has its own meaning for Ctrl+Z and its kind. */
const WRITES = 'input:not([type="checkbox"], [type="radio"], [type="range"]), textarea, [contenteditable]'

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
  const target = event.target as HTMLElement
  const writing = target.closest?.(WRITES) != null
  const typing = writing || (!event.ctrlKey && target.closest?.('input, select, [role="menu"]') != null)
  for (const layer of [...layers].reverse()) {
    for (const [name, action] of Object.entries(layer.actions)) {
      const whileTyping = KEYS[name]?.typing && pressed.length > 1
      if (keysFor(name).includes(pressed) && (!typing || whileTyping) && layer.when(event)) return action ?? null
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
