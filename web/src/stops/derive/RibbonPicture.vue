<script setup lang="ts">
/**
 * Old by new: the values as they stand, as they will be, and ribbons between them as thick as their counts. Where a
 * code can be typed for each value, or a value dropped onto a new one, what becomes of it changes.
 */
import { computed, ref } from 'vue'

import type { Schema } from '@/api/client'
import { count } from '@/study/shown'
import { useStudy } from '@/study/store'
import type { Becomes } from './sentence'

type Side = Schema['SideModel']
const props = defineProps<{
  table: Schema['OldByNewModel']
  editable?: boolean
  /** What each old value becomes as it was shaped last, and the labels of new codes: both may be ahead of the table. */
  becomes: Becomes
  labels: Map<string, string>
}>()
const emit = defineEmits<{ becomes: [at: number, code: string]; label: [code: string, label: string]; move: [code: string, by: number] }>()
const study = useStudy()

const ROW = 38
const GAP = 8
const WIDE = 236
const rows = computed(() => Math.max(props.table.old.length, props.table.new.length))
const height = computed(() => rows.value * (ROW + GAP))
const spread = (number: number): number => (number ? height.value / number : 0)
const topOf = (at: number, number: number): number => Math.max(0, (at + 0.5) * spread(number) - ROW / 2)
const MOST = 30

const ribbons = computed(() => {
  const { old, new: now, ribbons: found, records } = props.table
  const most = Math.max(1, ...old.map((each) => each.count), ...now.map((each) => each.count))
  const thick = (number: number): number => Math.max(1.5, (number / most) * MOST)
  const used = { old: old.map(() => 0), new: now.map(() => 0) }
  const total = (list: Side[], at: number): number => thick(list[at]!.count)
  return found.map((each) => {
    const size = thick(each.count)
    const from = topOf(each.old, old.length) + ROW / 2 - total(old, each.old) / 2 + used.old[each.old]! + size / 2
    const to = topOf(each.new, now.length) + ROW / 2 - total(now, each.new) / 2 + used.new[each.new]! + size / 2
    used.old[each.old]! += size
    used.new[each.new]! += size
    const middle = WIDE / 2
    return {
      path: `M0 ${from}C${middle} ${from} ${middle} ${to} ${WIDE} ${to}`,
      size,
      reading: old[each.old]!.reading === 'valid' ? now[each.new]!.reading : old[each.old]!.reading,
      said: `${called(old[each.old]!)} → ${called(now[each.new]!)}: ${count(each.count)} of ${count(records)}`,
    }
  })
})
function called(side: Side): string {
  if (side.different > 1 && !side.code) return side.low !== null ? `${side.low} to ${side.high}` : `${count(side.different)} different ones`
  if (side.reading === 'blank') return 'blank'
  return [side.code, side.label].filter(Boolean).join(' ')
}
/** What stands beside the code: the label, or how it reads. */
function words(side: Side): string {
  if (side.different > 1 && !side.code) return side.low !== null ? `${side.low} to ${side.high}, ${count(side.different)} values` : `${count(side.different)} different ${side.reading === 'stray' ? 'strays' : 'ones'}`
  if (side.label) return side.label
  return side.reading === 'stray' ? 'stray' : side.reading === 'missing' ? 'missing' : ''
}
/** The code that a value becomes, as it stands in its field; what stays is its own. */
const codeOf = (at: number): string => props.becomes[at] ?? props.table.old[at]!.code
const over = ref<number | null>(null)
function typed(at: number, event: Event): void {
  const code = (event.target as HTMLInputElement).value.trim()
  if (code !== codeOf(at)) emit('becomes', at, code)
}
/** An old value that is dropped onto a new one becomes it; a new one that is dropped there takes its place. */
function drop(event: DragEvent, at: number): void {
  over.value = null
  const [what, place] = (event.dataTransfer?.getData('text/plain') ?? '').split(' ')
  const side = props.table.new[at]
  const from = Number(place)
  if (!place || !Number.isInteger(from) || !side) return
  if (what === 'old') emit('becomes', from, side.code)
  else if (movable(side)) emit('move', props.table.new[from]!.code, at - from)
}
const movable = (side: Side): boolean => !!props.editable && side.reading === 'valid' && side.different === 1
function named(event: Event, side: Side): void {
  const label = (event.target as HTMLInputElement).value.trim()
  if (label !== labelOf(side)) emit('label', side.code, label)
}
const labelOf = (side: Side): string => props.labels.get(side.code) ?? side.label
const showsCode = (side: Side): boolean => study.show !== 'labels' || !side.label
</script>

<template>
  <div class="ribbons" data-test="ribbons" role="group" aria-label="Old by new">
    <div class="heads"><span class="soft">as it stands</span><span class="soft">as it will be</span></div>
    <div class="picture" :style="{ height: `${height}px` }">
      <div
        v-for="(side, at) in table.old" :key="`o${at}`" class="box old" :class="side.reading" :style="{ top: `${topOf(at, table.old.length)}px` }"
        :draggable="editable && side.different === 1" :data-test="`old-${side.code || side.reading}`" @dragstart="$event.dataTransfer?.setData('text/plain', `old ${at}`)"
      >
        <b v-if="showsCode(side)" class="mono cut">{{ side.code }}</b><span class="words cut" :title="words(side)">{{ words(side) }}</span><span class="number">{{ count(side.count) }}</span>
        <input
          v-if="editable && side.different === 1" class="to mono" :value="codeOf(at)" :aria-label="`What ${called(side)} becomes`" placeholder="blank"
          :data-test="`to-${side.code || side.reading}`" @change="typed(at, $event)" @keydown.enter="typed(at, $event)"
        />
      </div>
      <svg :width="WIDE" :height="height" :viewBox="`0 0 ${WIDE} ${height}`" preserveAspectRatio="none" aria-hidden="true">
        <path v-for="(each, at) in ribbons" :key="at" :d="each.path" :class="each.reading" :stroke-width="each.size"><title>{{ each.said }}</title></path>
      </svg>
      <div
        v-for="(side, at) in table.new" :key="`n${at}`" class="box new" :class="[side.reading, { over: over === at }]" :style="{ top: `${topOf(at, table.new.length)}px` }"
        :draggable="movable(side)" :data-test="`new-${side.code || side.reading}`" @dragstart="$event.dataTransfer?.setData('text/plain', `new ${at}`)" @dragover.prevent="over = at" @dragleave="over = null" @drop.prevent="drop($event, at)"
      >
        <b v-if="showsCode(side)" class="mono cut">{{ side.code }}</b>
        <input
          v-if="movable(side)" class="words label" :value="labelOf(side)" placeholder="label" :aria-label="`Label of ${side.code}`" :data-test="`label-${side.code}`"
          title="Dragged, or by Alt+↑ and Alt+↓, it takes another place" @change="named($event, side)" @keydown.alt.up.prevent="emit('move', side.code, -1)" @keydown.alt.down.prevent="emit('move', side.code, 1)"
        />
        <span v-else class="words cut" :title="words(side)">{{ words(side) }}</span>
        <span class="number">{{ count(side.count) }}</span>
      </div>
    </div>
    <table class="unseen">
      <caption>Old by new, as a table</caption>
      <tbody>
        <tr v-for="(each, at) in ribbons" :key="at"><td>{{ each.said }}</td></tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.heads {
  display: flex;
  justify-content: space-between;
  font-size: 12px;
  margin-bottom: 6px;
}

.heads span:last-child {
  width: calc((100% - 236px) / 2);
}

.picture {
  position: relative;
}

svg {
  position: absolute;
  left: calc((100% - 236px) / 2);
  top: 0;
  overflow: visible;
}

path {
  fill: none;
  stroke: var(--leaf);
  opacity: 0.4;
}

path.missing {
  stroke: var(--straw);
  opacity: 0.65;
}

path.stray {
  stroke: var(--beet);
  opacity: 0.5;
}

path.blank {
  stroke: var(--edge);
}

.box {
  position: absolute;
  width: calc((100% - 236px) / 2);
  height: 38px;
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 0 10px;
  border: 1px solid var(--line2);
  border-radius: 6px;
  background: var(--white);
  font-size: 13.5px;
}

.new {
  right: 0;
}

.new.valid {
  border-color: var(--leaf);
}

.new.over {
  box-shadow: 0 0 0 2px var(--leaf);
}

.old[draggable='true'] {
  cursor: grab;
}

.missing {
  background: repeating-linear-gradient(135deg, var(--straw-pale) 0 5px, var(--white) 5px 9px);
  color: var(--straw-ink);
}

.box.stray {
  border: 1.5px dashed var(--beet);
  color: var(--beet);
}

.box b {
  min-width: 24px;
  max-width: 45%;
  text-align: right;
  font-size: 13px;
}

.words {
  flex: 1;
  min-width: 0;
}

.label {
  height: 28px;
  border-bottom: 1px dotted var(--edge);
  font-size: 13.5px;
}

.number {
  color: var(--soft);
}

.to {
  width: 64px;
  height: 26px;
  text-align: right;
  border: 1px solid var(--edge);
  border-radius: 5px;
  padding: 0 6px;
  background: var(--white);
  color: var(--ink);
  font-size: 13px;
}
</style>
