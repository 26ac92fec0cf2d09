/** Keys that work at every stop: one table. Plain letters are never among them. */
import { useEventListener } from '@vueuse/core'
import { useRouter } from 'vue-router'

import { useSheetToggle } from '@/sheet/toggle'
import { type Show, useStudy } from '@/study/store'
import { useFinder } from './finder'
import { STOPS } from './stops'

const NEXT: Record<Show, Show> = { codes: 'labels', labels: 'both', both: 'codes' }

export function useShortcuts(): void {
  const study = useStudy()
  const router = useRouter()
  const finder = useFinder()

  const actions: Record<string, () => void> = {
    'Ctrl+k': () => (finder.value = true),
    'Alt+s': useSheetToggle(),
    'Alt+c': () => (study.show = NEXT[study.show]),
    'Ctrl+z': () => study.overview?.undo && void study.moveHead('undo'),
    'Ctrl+Shift+z': () => study.overview?.redo && void study.moveHead('redo'),
    'Ctrl+y': () => study.overview?.redo && void study.moveHead('redo'),
  }
  STOPS.forEach((stop, number) => {
    actions[`Alt+${number + 1}`] = () => void router.push({ name: stop.name, params: { study: study.id } })
  })

  useEventListener(window, 'keydown', (event) => {
    const action = actions[keysOf(event)]
    const typing = (event.target as HTMLElement).closest('input, textarea, [contenteditable]')
    if (!action || (typing && !event.altKey && event.key !== 'k')) return
    event.preventDefault()
    action()
  })
}

/** A key press as it is written in the table: "Ctrl+Shift+z". */
export function keysOf(event: KeyboardEvent): string {
  const held = [event.ctrlKey || event.metaKey ? 'Ctrl' : '', event.altKey ? 'Alt' : '', event.shiftKey ? 'Shift' : '']
  return [...held.filter(Boolean), event.key.length === 1 ? event.key.toLowerCase() : event.key].join('+')
}
