<script setup lang="ts">
/** A distribution as bars over a plain axis; where limits can be set, with a handle at each end. */
import { computed, ref } from 'vue'

import type { Schema } from '@/api/client'
import { counted, figure } from '@/study/shown'

const props = defineProps<{
  histogram: Schema['Histogram']
  span: string[] | null
  /** The limits as numbers, null where open; without them there are no handles. */
  limits?: { low: number | null; high: number | null }
  whole?: boolean
  said?: (value: number) => string
}>()
const emit = defineEmits<{ limit: [limits: { low: number | null; high: number | null }] }>()

const W = 560
const H = 128
const edges = computed(() => props.histogram.edges)
const low = computed(() => edges.value[0] ?? 0)
const high = computed(() => edges.value.at(-1) ?? 1)
const say = (value: number): string => props.said?.(value) ?? figure(value)
const x = (value: number): number => Math.min(W, Math.max(0, ((value - low.value) / (high.value - low.value)) * W))

const top = computed(() => Math.max(1, ...props.histogram.counts.map((value, at) => value + (props.histogram.beyond[at] ?? 0))))
const bars = computed(() => {
  const width = W / props.histogram.counts.length
  return props.histogram.counts.map((value, at) => {
    const beyond = props.histogram.beyond[at] ?? 0
    const tall = (number: number): number => (number ? Math.max(2, (number / top.value) * H) : 0)
    const [from, to] = [edges.value[at] ?? 0, edges.value[at + 1] ?? 0]
    const ends = props.whole && to - from === 1 ? say(from + 0.5) : `${say(from)} to ${say(to)}`
    return {
      x: at * width + 0.75, width: Math.max(1, width - 1.5), valid: tall(value), beyond: tall(beyond),
      said: `${ends}: ${counted(value, 'entry', 'entries')}${beyond ? `, ${counted(beyond, 'stray')}` : ''}`,
    }
  })
})
const ticks = computed(() => {
  if (props.span) return [{ x: 0, said: props.span[0] }, { x: W, said: props.span[1] }]
  const rough = (high.value - low.value) / 5
  const size = 10 ** Math.floor(Math.log10(rough))
  const step = [1, 2, 5, 10].map((each) => each * size).find((each) => each >= rough) ?? rough
  const out = []
  for (let at = Math.ceil(low.value / step) * step; at <= high.value; at += step) {
    out.push({ x: x(at), said: String(Number(at.toPrecision(6))) })
  }
  return out
})

// Limits -----------------------------------------------------------------------------------------

const ENDS = ['low', 'high'] as const
type End = (typeof ENDS)[number]
const svg = ref<SVGSVGElement>()
const held = ref<{ end: End; value: number } | null>(null)
const least = computed(() => (props.whole ? low.value + 0.5 : low.value))
const most = computed(() => (props.whole ? high.value - 0.5 : high.value))
const step = computed(() => (props.whole ? 1 : 10 ** Math.floor(Math.log10((high.value - low.value) / 50))))

function at(end: End): number {
  if (held.value?.end === end) return held.value.value
  return props.limits?.[end] ?? (end === 'low' ? least.value : most.value)
}

function rounded(value: number): number {
  const inside = Math.min(most.value, Math.max(least.value, value))
  return Number((Math.round(inside / step.value) * step.value).toPrecision(10))
}

function follow(event: PointerEvent): void {
  if (!held.value || !svg.value) return
  const box = svg.value.getBoundingClientRect()
  const share = ((event.clientX - box.left) / box.width) * (W + 12) - 6
  held.value = { ...held.value, value: rounded(low.value + (share / W) * (high.value - low.value)) }
}

function take(event: PointerEvent, end: End): void {
  held.value = { end, value: at(end) }
  ;(event.target as Element).setPointerCapture(event.pointerId)
}

function let_go(): void {
  if (held.value) set(held.value.end, held.value.value)
  held.value = null
}

/** A limit at the outermost value is a limit too, unless there was none and it was not moved. */
function set(end: End, value: number | null): void {
  if (!props.limits || value === props.limits[end]) return
  if (props.limits[end] === null && value === (end === 'low' ? least.value : most.value)) return
  emit('limit', { ...props.limits, [end]: value })
}

function keys(event: KeyboardEvent, end: End): void {
  const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -10, PageUp: 10 }[event.key]
  if (by !== undefined) set(end, rounded(at(end) + by * step.value))
  else if (event.key === 'Delete' || event.key === 'Backspace') set(end, null)
  else return
  event.preventDefault()
}
</script>

<template>
  <svg ref="svg" class="bars" :viewBox="`-6 -4 ${W + 12} ${H + 26}`" :role="limits ? 'group' : 'img'" aria-label="Distribution of the entries" data-test="histogram">
    <g v-for="(bar, index) in bars" :key="index">
      <rect :x="bar.x" :y="H - bar.valid" :width="bar.width" :height="bar.valid"><title>{{ bar.said }}</title></rect>
      <rect class="beyond" :x="bar.x" :y="H - bar.valid - bar.beyond" :width="bar.width" :height="bar.beyond"><title>{{ bar.said }}</title></rect>
    </g>
    <line class="axis" x1="0" :x2="W" :y1="H + 0.5" :y2="H + 0.5" />
    <text v-for="tick in ticks" :key="tick.x" :x="tick.x" :y="H + 16" :text-anchor="tick.x <= 0 ? 'start' : tick.x >= W ? 'end' : 'middle'">{{ tick.said }}</text>
    <template v-if="limits">
      <rect class="out" x="0" y="0" :width="x(at('low'))" :height="H" />
      <rect class="out" :x="x(at('high'))" y="0" :width="W - x(at('high'))" :height="H" />
      <g
        v-for="end in ENDS" :key="end" class="handle" :class="{ open: limits[end] === null && held?.end !== end }" role="slider" tabindex="0"
        :aria-label="`${end === 'low' ? 'Lowest' : 'Highest'} value allowed`" :aria-valuenow="at(end)" :aria-valuemin="least" :aria-valuemax="most"
        :aria-valuetext="limits[end] === null ? 'no limit' : say(at(end))" :data-test="`limit-${end}`"
        @pointerdown="take($event, end)" @pointermove="follow" @pointerup="let_go" @keydown="keys($event, end)"
      >
        <title>{{ limits[end] === null ? 'No limit: drag to set one' : `${end === 'low' ? 'From' : 'To'} ${say(at(end))}; Delete takes it away` }}</title>
        <rect class="grip" :x="x(at(end)) - 12" y="-4" width="24" :height="H + 8" />
        <line :x1="x(at(end))" :x2="x(at(end))" y1="0" :y2="H" />
        <path :d="end === 'low' ? `M${x(at(end))} 0 h9 l5 6 -5 6 h-9 z` : `M${x(at(end))} 0 h-9 l-5 6 5 6 h9 z`" />
        <text v-if="held?.end === end" :x="x(at(end))" :y="H - 4" :text-anchor="x(at(end)) > W / 2 ? 'end' : 'start'" class="now">{{ say(held.value) }}</text>
      </g>
    </template>
  </svg>
</template>

<style scoped>
.bars {
  width: 100%;
  max-width: 572px;
  display: block;
  margin-bottom: 8px;
  overflow: visible;
}

rect {
  fill: var(--leaf);
}

.beyond {
  fill: var(--beet);
}

.out {
  fill: var(--beet-pale);
  opacity: 0.5;
  pointer-events: none;
}

.axis {
  stroke: var(--line2);
}

.handle {
  cursor: ew-resize;
  outline: none;
  touch-action: none;
}

.handle .grip {
  fill: transparent;
}

.handle line {
  stroke: var(--soil);
  stroke-width: 1.5;
}

.handle path {
  fill: var(--soil);
}

.handle.open :is(line, path) {
  opacity: 0.45;
}

.handle:focus-visible path,
.handle:hover path {
  fill: var(--leaf);
  opacity: 1;
}

.handle:focus-visible line {
  stroke: var(--leaf);
  stroke-width: 3;
  opacity: 1;
}

text {
  font-size: 12px;
  fill: var(--soft);
}

.now {
  font-weight: 650;
  fill: var(--ink);
}
</style>
