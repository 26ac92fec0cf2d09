/** What the finder finds: variables, findings, and everything that can be done. */
import { computed, type ComputedRef, ref, type Ref } from 'vue'
import { useRouter } from 'vue-router'

import type { Finding } from '@/api/client'
import { useSheets } from '@/sheet/sheets'
import { useSheetToggle } from '@/sheet/toggle'
import { useChosen } from '@/stops/codebook/chosen'
import { matching } from '@/stops/codebook/find'
import { usePanel } from '@/stops/codebook/panel'
import { PANELS } from '@/stops/codebook/panels'
import { type Show, useStudy } from '@/study/store'
import { type Theme, theme } from '@/study/theme'
import { shown } from './keys'
import { useKeysPage } from './keysPage'
import { STOPS } from './stops'

export interface Found {
  key: string
  kind: 'variable' | 'finding' | 'action'
  title: string
  detail: string
  keys?: string
  go: () => void
}

const open = ref(false)
/** Whether the finder is open. */
export const useFinder = (): Ref<boolean> => open

const MOST = 8

/** What a text finds, the best of each kind first. */
export function useFound(text: Ref<string>, findings: Ref<Finding[]>): ComputedRef<Found[]> {
  const study = useStudy()
  const chosen = useChosen()
  const panel = usePanel()
  const sheets = useSheets()
  const toggleSheet = useSheetToggle()
  const router = useRouter()
  const keysPage = useKeysPage()
  const to = (name: string, variable?: string): Promise<unknown> =>
    router.push({ name, params: { study: study.id, ...(variable ? { variable } : {}) } })

  const action = (title: string, detail: string, keys: string, go: () => void): Found => ({ key: `action ${title}`, kind: 'action', title, detail, keys, go })
  const actions = computed<Found[]>(() => [
    ...STOPS.map((stop) => action(stop.title, 'go there', shown(`stop ${stop.name}`), () => void to(stop.name))),
    ...PANELS.map((each) => action(each.word, each.title, shown(`panel ${each.name}`), () => void to('codebook', chosen.first ?? undefined).then(() => (panel.open = each.name)))),
    ...(study.overview?.undo ? [action('Undo', study.overview.undo, shown('undo'), () => void study.moveHead('undo'))] : []),
    ...(study.overview?.redo ? [action('Redo', study.overview.redo, shown('redo'), () => void study.moveHead('redo'))] : []),
    action('Keys', 'all keys, and help to change them', shown('keys'), () => (keysPage.value = true)),
    action('Key records in', 'one after another, each as its questionnaire', shown('key in'), () => void to('key')),
    action('Two keyings', 'compare with records that were keyed a second time', '', () => void to('keyings')),
    action('Side sheet', 'the questionnaire or codebook beside the work', shown('side sheet'), toggleSheet),
    ...(sheets.id ? [action('Read it all', `compare “${sheets.current?.name}” with the study`, '', () => void to('codebook').then(() => (sheets.comparing = true)))] : []),
    ...(['codes', 'labels', 'both'] as Show[]).map((show) => action(`Show ${show}`, 'names, codes or labels, at every stop', shown('show'), () => (study.show = show))),
    ...(['light', 'dark', 'as the system'] as Theme[]).map((each) => action(`Colours: ${each}`, '', '', () => (theme.value = each))),
  ])

  return computed(() => {
    const words = text.value.trim().toLowerCase().split(/\s+/).filter(Boolean)
    const holds = (said: string): boolean => words.every((word) => said.toLowerCase().includes(word))
    const variables = words.length ? matching(study.variables, text.value) : []
    const exact = text.value.trim().toLowerCase()
    const best = [...variables].sort((a, b) => Number(b.name.toLowerCase().startsWith(exact)) - Number(a.name.toLowerCase().startsWith(exact)))
    return [
      ...best.slice(0, MOST).map((tag): Found => ({
        key: tag.id, kind: 'variable', title: tag.name, detail: tag.label,
        go: () => void to('codebook', tag.id).then(() => chosen.only(tag.id)),
      })),
      ...actions.value.filter((each) => holds(`${each.title} ${each.detail}`)).slice(0, words.length ? MOST : 40),
      ...findings.value
        .filter((each) => words.length && holds(`${study.byId.get(each.variable)?.name ?? ''} ${each.check} ${each.message}`))
        .slice(0, MOST)
        .map((each): Found => ({
          key: `${each.check} ${each.variable}`, kind: 'finding', title: study.byId.get(each.variable)?.name ?? '', detail: each.message,
          go: () => void to('codebook', each.variable).then(() => chosen.only(each.variable)),
        })),
    ]
  })
}
