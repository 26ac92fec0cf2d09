<script setup lang="ts">
/** The head of a column: its tag, what can be done with it, and its edge, by which it is made wider. */
import { computed } from 'vue'

import type { TagStrip } from '@/api/client'
import LevelSign from '@/parts/LevelSign.vue'
import { useStudy } from '@/study/store'
import { useRecordView } from './view'

const props = defineProps<{ tag: TagStrip; width: number }>()
const study = useStudy()
const view = useRecordView()

const sorted = computed(() => view.arrangement.sort.find((key) => key.variable === props.tag.id))
const only = computed(() => view.arrangement.conditions.some((each) => each.variable === props.tag.id))

function sort(down: boolean, event: MouseEvent | KeyboardEvent): void {
  const others = event.shiftKey ? view.arrangement.sort.filter((key) => key.variable !== props.tag.id) : []
  void view.arrange({ ...view.arrangement, sort: [...others, { variable: props.tag.id, down }] })
}
const unsorted = (): void => void view.arrange({ ...view.arrangement, sort: view.arrangement.sort.filter((key) => key.variable !== props.tag.id) })
function only_(readings: ('valid' | 'missing' | 'blank' | 'unreadable' | 'unlisted')[]): void {
  const others = view.arrangement.conditions.filter((each) => each.variable !== props.tag.id)
  const mine = { variable: props.tag.id, readings, codes: [], text: '', low: null, high: null, other: false }
  void view.arrange({ ...view.arrangement, conditions: readings.length ? [...others, mine] : others })
}
function hide(): void {
  view.variables = (view.variables ?? study.variables.map((each) => each.id)).filter((id) => id !== props.tag.id)
}

function drag(event: PointerEvent): void {
  const [from, width, edge] = [event.clientX, props.width, event.currentTarget as HTMLElement]
  edge.setPointerCapture(event.pointerId)
  const move = (to: PointerEvent): void => widen(width + to.clientX - from)
  edge.addEventListener('pointermove', move)
  edge.addEventListener('pointerup', () => edge.removeEventListener('pointermove', move), { once: true })
}
function widen(to: number): void {
  view.widths = { ...view.widths, [props.tag.id]: Math.round(Math.min(Math.max(to, 48), 1_200)) }
}
function asBefore(): void {
  view.widths = Object.fromEntries(Object.entries(view.widths).filter(([id]) => id !== props.tag.id))
}
</script>

<template>
  <div class="head" role="columnheader" :aria-sort="sorted ? (sorted.down ? 'descending' : 'ascending') : undefined" :data-test="`head-${tag.name}`">
    <v-menu>
      <template #activator="{ props: menu }">
        <button v-bind="menu" class="what" tabindex="-1" :aria-label="`${tag.name}: sort, filter, hide`">
          <span class="name"><LevelSign :level="tag.level" /> <span class="mono">{{ tag.name }}</span><span v-if="sorted" class="mark">{{ sorted.down ? '↓' : '↑' }}</span><span v-if="only" class="mark" title="Only some of its entries are shown">⊂</span></span>
          <span class="label" :title="tag.label">{{ tag.label }}</span>
        </button>
      </template>
      <div class="panel menu">
        <button data-test="sort-up" title="With Shift as a further key" @click="sort(false, $event)">Sort, low first</button>
        <button data-test="sort-down" title="With Shift as a further key" @click="sort(true, $event)">Sort, high first</button>
        <button v-if="sorted" data-test="unsort" @click="unsorted">Do not sort by it</button>
        <button data-test="only-strays" @click="only_(['unreadable', 'unlisted'])">Only its strays</button>
        <button data-test="only-missing" @click="only_(['missing', 'blank'])">Only missing and blank</button>
        <button v-if="only" data-test="only-any" @click="only_([])">Whatever it holds</button>
        <button data-test="hide-column" @click="hide">Hide</button>
      </div>
    </v-menu>
    <span class="edge" title="Drag to widen; double click for the width of the tag" data-test="widen" @pointerdown.prevent="drag" @dblclick="asBefore" />
  </div>
</template>

<style scoped>
.head {
  position: absolute;
  top: 0;
  left: 0;
  height: 100%;
  border-right: 1px solid var(--line2);
}

.head.frozen {
  position: sticky;
  flex: none;
  z-index: 2;
  background: var(--bed);
}

.what {
  display: flex;
  flex-direction: column;
  width: 100%;
  height: 100%;
  padding: 4px 8px;
  text-align: left;
  overflow: hidden;
  white-space: nowrap;
}

.name {
  display: block;
  font-size: 13px;
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
}

.mark {
  margin-left: 4px;
  color: var(--leaf);
  font-weight: 700;
}

.label {
  display: -webkit-box;
  font-size: 12px;
  line-height: 14px;
  color: var(--soft);
  overflow: hidden;
  white-space: normal;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
}

.edge {
  position: absolute;
  top: 0;
  right: -4px;
  z-index: 3;
  width: 8px;
  height: 100%;
  cursor: col-resize;
}

.menu {
  display: flex;
  flex-direction: column;
  min-width: 190px;
  padding: 6px 0;
}

.menu button {
  min-height: 30px;
  padding: 0 14px;
  text-align: left;
  font-size: 13px;
}

.menu button:hover,
.menu button:focus-visible {
  background: var(--leaf-pale);
}
</style>
