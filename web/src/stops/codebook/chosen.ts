/** Which tags are chosen: one whose page is shown, more beside it, or targets of a stamp. */
import { defineStore } from 'pinia'
import { computed, ref } from 'vue'

import { useStudy } from '@/study/store'

export const useChosen = defineStore('chosen', () => {
  const study = useStudy()
  const first = ref<string | null>(null)
  const others = ref<Set<string>>(new Set())
  /** While a stamp is held: the tags that are to get it. */
  const targets = ref<Set<string> | null>(null)
  let anchor: string | null = null

  const ids = computed(() => {
    const wanted = new Set(others.value)
    if (first.value) wanted.add(first.value)
    return study.variables.filter((each) => wanted.has(each.id)).map((each) => each.id)
  })
  const has = (id: string): boolean => id === first.value || others.value.has(id)

  /** Chooses one tag alone. */
  function only(id: string | null): void {
    first.value = anchor = id
    others.value = new Set()
  }

  function several(all: string[]): void {
    if (!all.length) return
    if (!first.value || !all.includes(first.value)) first.value = all[0]!
    others.value = new Set(all.filter((id) => id !== first.value))
  }

  /** Adds a tag or takes it away; the last one stays. */
  function toggle(id: string): void {
    if (!has(id)) others.value = new Set([...others.value, id])
    else if (ids.value.length > 1) several(ids.value.filter((each) => each !== id))
    anchor = id
  }

  /** Chooses all from the last tag that was clicked to this one, of those shown. */
  function upTo(id: string, shown: string[]): void {
    const from = shown.indexOf(anchor ?? id)
    const to = shown.indexOf(id)
    if (from >= 0 && to >= 0) several(shown.slice(Math.min(from, to), Math.max(from, to) + 1))
  }

  function aim(id: string, on = !targets.value?.has(id)): void {
    if (!targets.value || id === first.value) return
    const next = new Set(targets.value)
    if (on) next.add(id)
    else next.delete(id)
    targets.value = next
  }

  return { first, ids, targets, has, only, several, toggle, upTo, aim }
})
