/** What works at every stop. */
import { useRouter } from 'vue-router'

import { useSheetToggle } from '@/sheet/toggle'
import { type Show, useStudy } from '@/study/store'
import { useFinder } from './finder'
import { pressFilled } from './focus'
import { useAllKeys, useKeys } from './keys'
import { STOPS } from './stops'

const NEXT: Record<Show, Show> = { codes: 'labels', labels: 'both', both: 'codes' }

export function useShortcuts(): void {
  const study = useStudy()
  const router = useRouter()
  const finder = useFinder()

  useAllKeys()
  useKeys({
    find: () => (finder.value = true),
    'filled button': pressFilled,
    'side sheet': useSheetToggle(),
    show: () => (study.show = NEXT[study.show]),
    // What is still on its way can be taken back, too.
    undo: () => (study.overview?.undo || study.busy) && void study.moveHead('undo'),
    redo: () => study.overview?.redo && void study.moveHead('redo'),
    ...Object.fromEntries(
      STOPS.map((stop) => [`stop ${stop.name}`, () => void router.push({ name: stop.name, params: { study: study.id } })]),
    ),
  })
}
