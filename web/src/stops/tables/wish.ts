/** What is wished of the tables of a study, kept while its window is open: which variables, by what, of which records. */
import { useSessionStorage } from '@vueuse/core'
import { computed, type ComputedRef, type Ref } from 'vue'

import type { Schema, TagStrip } from '@/api/client'
import { useStudy } from '@/study/store'

export type Percent = Schema['Crosstab']['percent']
export type AnyLook = Schema['ViewsReply']['shown'][number]
export type AnyView = Schema['ViewsRequest']['views'][number]

/** How one variable is looked at; without `by` alone. */
export interface Wish {
  by?: string
  within?: string
  percent?: Percent
  missing?: boolean
  equalSteps?: boolean
}

interface Wished {
  picked: string[]
  each: Record<string, Wish>
  only: string
  weight: string
  /** How the items of a battery are looked at together. */
  batteries: Record<string, Together>
}

/** How the items of a battery are looked at: each apart, or together in the order in which they were asked or by what was answered. */
export interface Together {
  apart?: boolean
  sorted?: boolean
}

/** One card: a variable, which may have been taken out of its battery; or the items of a battery together. */
export type Card = { id: string; out: string | null } | { battery: string; items: string[]; ticks: boolean; sorted: boolean }

export interface Wishes {
  wished: Ref<Wished>
  /** Those that are picked and still there. */
  ids: ComputedRef<string[]>
  cards: ComputedRef<Card[]>
  views: ComputedRef<AnyView[]>
  of: (id: string) => Wish
  set: (id: string, change: Wish) => void
  setTogether: (battery: string, change: Together) => void
  weight: ComputedRef<string | null>
}

/** Items that are picked from which on a battery is one picture. */
const TOGETHER = 3

/** Whether a variable is measured: figures say more of it than counts of its values. */
export const measured = (tag: TagStrip): boolean => ['integer', 'decimal'].includes(tag.type) && ['interval', 'ratio'].includes(tag.level)

export function useWishes(): Wishes {
  const study = useStudy()
  const wished = useSessionStorage<Wished>(`row-tag-views-${study.id}`, { picked: [], each: {}, only: '', weight: '', batteries: {} }, { mergeDefaults: true })
  const there = (id: string | undefined): string | undefined => (id && study.byId.has(id) ? id : undefined)
  const of = (id: string): Wish => wished.value.each[id] ?? {}

  function viewOf(id: string): AnyView {
    const { by, within, percent = 'column', missing = false, equalSteps = false } = of(id)
    const other = there(by)
    if (!other || other === id) return { view: 'distribution', variable: id }
    if (measured(study.byId.get(id)!) || equalSteps) return { view: 'groups', variable: id, by: other, equal_steps: equalSteps }
    return { view: 'crosstab', rows: id, columns: other, within: there(within) ?? null, percent, missing }
  }
  const ids = computed(() => wished.value.picked.filter((id) => study.byId.has(id)))
  /** Items of a battery stand together where the first of them was picked, unless one is looked at by another variable. */
  const cards = computed<Card[]>(() => {
    const out: Card[] = []
    for (const id of ids.value) {
      const battery = batteryOf(id)
      const { apart = false, sorted = false } = wished.value.batteries[battery ?? ''] ?? {}
      const items = battery ? ids.value.filter((other) => batteryOf(other) === battery) : []
      if (items.length < TOGETHER || apart) out.push({ id, out: items.length < TOGETHER ? null : battery })
      else if (battery && items[0] === id) out.push({ battery, items, ticks: study.byId.get(id)!.ticks, sorted })
    }
    return out
  })
  function batteryOf(id: string): string | null {
    const tag = study.byId.get(id)!
    const fits = tag.ticks || (tag.level === 'ordinal' && tag.has_codes)
    return fits && !there(of(id).by) ? tag.battery : null
  }
  const viewOfItems = ({ items, ticks, sorted }: Extract<Card, { battery: string }>): AnyView =>
    ticks ? { view: 'several', things: items, order: sorted ? 'count' : 'as asked' } : { view: 'battery', items, order: sorted ? 'agreement' : 'as asked' }
  return {
    wished,
    ids,
    cards,
    views: computed(() => cards.value.map((card) => ('id' in card ? viewOf(card.id) : viewOfItems(card)))),
    of,
    set: (id, change) => (wished.value.each = { ...wished.value.each, [id]: { ...of(id), ...change } }),
    setTogether: (battery, change) => (wished.value.batteries = { ...wished.value.batteries, [battery]: { ...wished.value.batteries[battery], ...change } }),
    weight: computed(() => there(wished.value.weight) ?? null),
  }
}
