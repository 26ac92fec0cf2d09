<script setup lang="ts">
/** The tags in codebook order, by battery: found, filtered, chosen one or many, moved, and stamped. */
import { useEventListener } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import { api, got, type TagStrip as Strip } from '@/api/client'
import { leave } from '@/frame/focus'
import { useKeys } from '@/frame/keys'
import TagStrip from '@/parts/TagStrip.vue'
import VirtualList from '@/parts/VirtualList.vue'
import { useAsked } from '@/study/asked'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { useChosen } from './chosen'
import { matching } from './find'

const study = useStudy()
const chosen = useChosen()

const filter = ref('all')
const text = ref('')

const midnight = new Date(new Date().setHours(0, 0, 0, 0)).toISOString()
const changedToday = useAsked(
  'changed today',
  () => [study.id, study.revision] as const,
  () => got(api.GET('/api/studies/{study_id}/changed', { params: { path: { study_id: study.id }, query: { since: midnight } } })),
)
const suspected = useAsked(
  'suspected',
  () => [study.id, study.stamp({ tags: 'all', entries: 'all' })] as const,
  () => got(api.POST('/api/studies/{study_id}/missing/candidates', { params: { path: { study_id: study.id } }, body: {} })),
)
const field = ref<HTMLInputElement>()
const scroller = ref<{ show: (index: number) => void }>()

const FILTERS: Record<string, { title: string; holds: (tag: Strip) => boolean }> = {
  all: { title: 'All tags', holds: () => true },
  stray: { title: 'With entries that the tag cannot account for', holds: (tag) => tag.fill.stray > 0 },
  'no label': { title: 'Without a label', holds: (tag) => !tag.label },
  'no codes': { title: 'Wanting a code list', holds: (tag) => tag.wants_codes && tag.type !== 'text' && !tag.has_codes },
  suspects: { title: 'With entries that may stand for missing and are not set aside', holds: (tag) => suspects.value.has(tag.id) },
  proposed: { title: 'As proposed, not looked at yet', holds: (tag) => tag.proposed },
  today: { title: 'Changed today', holds: (tag) => today.value.has(tag.id) },
}
const today = computed(() => new Set(changedToday.value?.variables ?? []))
const suspects = computed(() => new Set(suspected.value?.candidates.flatMap((each) => Object.keys(each.counts)) ?? []))
const counts = computed(() =>
  Object.entries(FILTERS).map(([name, each]) => ({
    name,
    title: each.title,
    number: study.variables.filter(each.holds).length,
  })),
)
const tags = computed(() => matching(study.variables.filter(FILTERS[filter.value]!.holds), text.value))
const shownIds = computed(() => tags.value.map((tag) => tag.id))

type Item = { title: string; ids: string[] } | { tag: Strip }
const items = computed<Item[]>(() => {
  const out: Item[] = []
  let group: { title: string; ids: string[] } | null = null
  let battery: string | null | undefined
  for (const tag of tags.value) {
    if (!group || tag.battery !== battery) {
      battery = tag.battery
      group = { title: battery ? (study.overview?.batteries[battery] ?? 'Battery') : 'Single questions', ids: [] }
      out.push(group)
    }
    group.ids.push(tag.id)
    out.push({ tag })
  }
  return out
})

// Choosing ---------------------------------------------------------------------------------------

function click(event: MouseEvent, id: string): void {
  if (chosen.targets) return
  if (event.shiftKey) chosen.upTo(id, shownIds.value)
  else if (event.ctrlKey || event.metaKey) chosen.toggle(id)
  else chosen.only(id)
}

/** While a stamp is held the mouse sweeps over the tags that get it; `sweeping` is whether it adds or takes away. */
let sweeping: boolean | null = null
const cursor = ref<string | null>(null)

function press(id: string): void {
  if (!chosen.targets) return
  sweeping = !chosen.targets.has(id)
  cursor.value = id
  chosen.aim(id, sweeping)
}

function sweep(id: string): void {
  if (chosen.targets && sweeping !== null) chosen.aim(id, sweeping)
}
useEventListener(window, 'mouseup', () => (sweeping = null))

function keys(event: KeyboardEvent): void {
  const by = { ArrowUp: -1, ArrowDown: 1, PageUp: -10, PageDown: 10, Home: -1e9, End: 1e9 }[event.key]
  if (by !== undefined && event.altKey) void moveTags(Math.sign(by))
  else if (by !== undefined) go(by, event.shiftKey)
  else if (event.key === 'a' && (event.ctrlKey || event.metaKey)) chosen.several(shownIds.value)
  else if (event.key === 'Escape' && chosen.ids.length > 1) chosen.only(chosen.first)
  else if (event.key === ' ' && chosen.targets && cursor.value) chosen.aim(cursor.value)
  else if (event.key === 'Enter' && !event.ctrlKey) document.querySelector<HTMLElement>('[data-test="page"] textarea')?.focus()
  else if (event.key === 'Delete' && !chosen.targets) void study.take({ do: 'remove variables', format: 1, variables: chosen.ids })
  else return
  event.preventDefault()
}

let end: string | null = null
function go(by: number, extending: boolean): void {
  const from = chosen.targets ? (cursor.value ?? chosen.first) : extending ? (end ?? chosen.first) : chosen.first
  const at = shownIds.value.indexOf(from ?? '')
  const next = shownIds.value[Math.min(Math.max(at + by, 0), shownIds.value.length - 1)]
  if (!next) return
  if (chosen.targets) {
    cursor.value = next
    if (extending) chosen.aim(next, true)
  } else if (extending) chosen.upTo(next, shownIds.value)
  else chosen.only(next)
  end = next
  void show(next)
}

// Order ------------------------------------------------------------------------------------------

const dropBefore = ref<string | null>(null)
let dragging = false

function drag(event: DragEvent, id: string): void {
  if (!chosen.has(id)) chosen.only(id)
  dragging = true
  event.dataTransfer?.setData('text/plain', id)
}

function over(event: DragEvent, id: string): void {
  if (!dragging) return
  event.preventDefault()
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  const order = study.overview?.order ?? []
  dropBefore.value = event.clientY < box.top + box.height / 2 ? id : (order[order.indexOf(id) + 1] ?? '')
}

function drop(): void {
  const before = dropBefore.value
  dropBefore.value = null
  dragging = false
  if (before !== null) void arrange(before)
}

/** Moves the chosen tags before another one (or to the end), as one step. */
function arrange(before: string): Promise<unknown> {
  const order = study.overview?.order ?? []
  let target: string | undefined = before
  while (target && chosen.has(target)) target = order[order.indexOf(target) + 1]
  return study.take({ do: 'arrange', format: 1, variables: chosen.ids, before: target ?? null })
}

async function moveTags(by: number): Promise<void> {
  const order = study.overview?.order ?? []
  const places = chosen.ids.map((id) => order.indexOf(id))
  if (by < 0 && Math.min(...places) > 0) await arrange(order[Math.min(...places) - 1]!)
  if (by > 0 && Math.max(...places) < order.length - 1) await arrange(order[Math.max(...places) + 2] ?? '')
}

/** Scrolls to a tag, once the browser lays the page out anyway. */
async function show(id: string | null): Promise<void> {
  await new Promise(requestAnimationFrame)
  const row = document.querySelector(`[data-test="tags"] [data-id="${id}"]`)
  const at = items.value.findIndex((item) => 'tag' in item && item.tag.id === id)
  if (row) row.scrollIntoView({ block: 'nearest' })
  else if (at >= 0) scroller.value?.show(at)
}

watch(() => chosen.first, (id) => ((end = id), void show(id)), { immediate: true })
watch(() => chosen.targets === null, () => (cursor.value = null))
useKeys({ 'filter tags': () => field.value?.focus() })
</script>

<template>
  <aside class="tags listing" :class="{ stamping: chosen.targets }" aria-label="Tags">
    <div class="find">
      <input ref="field" v-model="text" placeholder="Filter tags" aria-label="Filter tags by name, label or wording" data-test="filter" @keydown.esc.prevent.stop="((text = ''), leave())" />
      <kbd>/</kbd>
    </div>
    <div class="chips">
      <button v-for="each in counts" :key="each.name" :class="{ on: filter === each.name }" :aria-pressed="filter === each.name" :title="each.title" @click="filter = each.name">
        {{ each.name }} {{ each.number }}
      </button>
    </div>
    <p v-if="!tags.length" class="none soft">No tag matches. <button class="act" @click="((text = ''), (filter = 'all'))">Show all</button></p>
    <VirtualList
      ref="scroller" :items="items" class="list scroll" role="listbox" aria-label="Variables" aria-multiselectable="true" data-home tabindex="0" data-test="tags"
      @keydown="keys" @drop.prevent="drop" @dragend="((dropBefore = null), (dragging = false))"
    >
      <template #default="{ item }">
        <div v-if="'title' in item" class="group" :title="`Choose all ${item.ids.length}`" @click="chosen.several(item.ids)">
          {{ item.title }}<span>{{ item.ids.length }}</span>
        </div>
        <div
          v-else class="entry" role="option" :draggable="!chosen.targets" :data-id="item.tag.id" :data-test="`tag-${item.tag.name}`"
          :aria-selected="chosen.targets ? chosen.targets.has(item.tag.id) : chosen.has(item.tag.id)"
          :class="{ before: dropBefore === item.tag.id, cursor: cursor === item.tag.id }"
          @click="click($event, item.tag.id)" @mousedown="press(item.tag.id)" @mouseenter="sweep(item.tag.id)"
          @dragstart="drag($event, item.tag.id)" @dragover="over($event, item.tag.id)"
        >
          <TagStrip :tag="item.tag" :on="item.tag.id === chosen.first" :beside="chosen.targets ? chosen.targets.has(item.tag.id) : chosen.has(item.tag.id)" />
        </div>
      </template>
    </VirtualList>
    <p class="chosen soft" role="status" data-test="chosen">
      <template v-if="chosen.targets">Stamp onto {{ counted(chosen.targets.size, 'tag') }}</template>
      <template v-else-if="chosen.ids.length > 1">{{ counted(chosen.ids.length, 'tag') }} chosen · <button class="act" @click="chosen.only(chosen.first)">only one</button></template>
      <template v-else><kbd>Shift</kbd> or <kbd>Ctrl</kbd> chooses several</template>
    </p>
  </aside>
</template>

<style scoped>
.tags {
  width: clamp(232px, 23vw, 292px);
  flex: none;
  display: flex;
  flex-direction: column;
  background: var(--bed);
  border-right: 1px solid var(--line);
}

.find {
  margin: 10px 10px 8px;
  display: flex;
  align-items: center;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 9px;
}

.find:focus-within {
  border-color: var(--leaf);
  box-shadow: 0 0 0 1px var(--leaf);
}

.find input {
  flex: 1;
  height: 29px;
  font-size: 13px;
  outline: none;
}

.find input::placeholder {
  color: var(--soft);
  opacity: 1;
}

.chips {
  margin: 0 10px 4px;
}

.none {
  margin: 16px;
}

.list {
  flex: 1;
  min-height: 0;
  padding-bottom: 12px;
}

.list:focus-visible {
  outline-offset: -2px;
}

.group {
  cursor: pointer;
  display: flex;
  justify-content: space-between;
  padding: 9px 14px 3px;
  font-size: 12px;
  font-weight: 650;
  color: var(--soil);
}

.group span {
  font-weight: 400;
  color: var(--soft);
}

.group:hover {
  color: var(--ink);
}

.entry {
  padding: 1.5px 10px;
  cursor: pointer;
}

.before {
  box-shadow: 0 -2px 0 var(--leaf);
}

.stamping .entry {
  cursor: cell;
  user-select: none;
}

.cursor {
  outline: 2px solid var(--leaf);
  outline-offset: -1px;
}

.chosen {
  flex: none;
  min-height: 34px;
  padding: 4px 14px;
  border-top: 1px solid var(--line);
  font-size: 12.5px;
  line-height: 25px;
}
</style>
