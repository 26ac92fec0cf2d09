/** Shaping a sentence by hand: what is typed, dragged or clicked writes it anew. */
import { computed, type Ref, ref } from 'vue'

import type { Schema } from '@/api/client'
import { type Band, type Becomes, banding, becomesOf, coding, moved, recoding, restOf, type Theme, theming } from './sentence'

type Look = Schema['DeriveLook']

/** `one` is the variable that is looked at among those that the sentence makes; `isText` tells of its source. */
export function useShaping(text: Ref<string>, shown: Readonly<Ref<Look | null>>, one: Readonly<Ref<Schema['NewVariableModel'] | null>>, isText: () => boolean) {
  const kind = computed(() => /^\s*(recode|codes)\b/i.exec(text.value)?.[1]?.toLowerCase() ?? '')
  const editable = computed(() => !!kind.value && !/\bonly\s+where\b|\.\./i.test(text.value) && !!shown.value?.source && !!one.value?.old_by_new)
  /** The source as it is named in the sentence. */
  const nameInText = (): string => text.value.replace(/^\s*\w+\s+/, '').split(':')[0]!.trim()
  /** What was shaped last, for as long as the sentence is the one that it wrote: who goes on does not wait for an answer. */
  const draft = ref<{ text: string; becomes: Becomes; labels: Map<string, string>; bands: Band[]; themes: Theme[] } | null>(null)
  const mine = computed(() => (draft.value?.text === text.value ? draft.value : null))
  const becomesNow = computed<Becomes>(() => (mine.value?.becomes.length ? mine.value.becomes : null) ?? (one.value?.old_by_new ? becomesOf(one.value.old_by_new) : []))
  const labelsNow = computed(() => mine.value?.labels ?? new Map((one.value?.codes ?? []).map((each) => [each.code ?? '', each.label ?? ''])))
  const bandsNow = computed<Band[]>(() => (mine.value?.bands.length ? mine.value.bands : (shown.value?.bands ?? [])))

  const themesNow = computed<Theme[]>(() => (mine.value?.themes.length ? mine.value.themes : (shown.value?.themes ?? [])))

  function shapeThemes(themes: Theme[]): void {
    if (!themes.length) return
    text.value = theming(nameInText(), themes)
    draft.value = { text: text.value, becomes: [], labels: new Map(), bands: [], themes }
  }
  function shapeBands(bands: Band[]): void {
    text.value = banding(nameInText(), bands)
    draft.value = { text: text.value, becomes: [], labels: new Map(), bands, themes: [] }
  }
  function write(becomes: Becomes, labels: Map<string, string>): void {
    const table = one.value!.old_by_new!
    const name = nameInText()
    const rest = restOf(text.value)
    text.value = (kind.value === 'codes' ? coding(name, table.old, becomes, labels) : recoding(name, table.old, becomes, labels, isText())) + rest
    draft.value = { text: text.value, becomes, labels, bands: [], themes: [] }
  }
  function becomes(place: number, code: string): void {
    const old = one.value!.old_by_new!.old[place]!
    const labels = new Map(labelsNow.value)
    if (code && !labels.has(code)) labels.set(code, old.label || (kind.value === 'codes' ? old.code : ''))
    write(becomesNow.value.map((each, number) => (number === place ? code : each)), labels)
  }
  function relabel(code: string, to: string): void {
    write(becomesNow.value, new Map(labelsNow.value).set(code, to))
  }
  function move(code: string, by: number): void {
    const found = moved(becomesNow.value, labelsNow.value, code, by)
    if (found) write(found.becomes, found.labels)
  }
  /** Turns an item of a score round, or back; of a range its items are written one by one first. */
  function turn(item: string): void {
    const items = (one.value && shown.value?.reliability?.items.map((each) => each.said)) ?? []
    const inner = /^reverse\((.*)\)$/i.exec(item)?.[1]
    const list = items.map((each) => (each === item ? (inner ?? `reverse(${each})`) : each))
    const needs = /,\s*needs\s+\d+/i.exec(text.value)?.[0] ?? ''
    text.value = text.value.replace(/\([\s\S]*\)/, `(${list.join(', ')}${needs})`)
  }

  return { kind, editable, becomesNow, labelsNow, bandsNow, themesNow, becomes, relabel, move, shapeBands, shapeThemes, turn }
}
