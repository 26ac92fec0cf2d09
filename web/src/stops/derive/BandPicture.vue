<script setup lang="ts">
/** The distribution with the cuts of its bands, which are dragged, moved by arrow keys, or typed; and what each band is called and holds. */
import { computed, ref } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { useAsked } from '@/study/asked'
import { figure } from '@/study/shown'
import { useStudy } from '@/study/store'
import BandRows from './BandRows.vue'
import { type Band, cutAt } from './sentence'

const props = defineProps<{ source: string; bands: Band[]; table: Schema['OldByNewModel']; whole: boolean }>()
const emit = defineEmits<{ bands: [bands: Band[]]; list: [bands: Band[]] }>()
/** Ranges of a code list hold both their ends. */
const listable = computed(() => props.bands.every((each) => !each.above && !each.below))
const study = useStudy()
const W = 860
const H = 170

const looked = useAsked(
  'derive histogram',
  () => [study.id, props.source, study.stamp({ tags: [props.source], entries: [props.source], records: true })] as const,
  ([study_id, variable]) => got(api.POST('/api/studies/{study_id}/views', { params: { path: { study_id } }, body: { views: [{ view: 'distribution', variable }] } })),
)
const histogram = computed(() => {
  const found = looked.value?.shown[0]
  return found && 'histogram' in found ? found.histogram : null
})
const ends = computed(() => [histogram.value?.edges[0] ?? 0, histogram.value?.edges.at(-1) ?? 1] as const)
const x = (value: number): number => ((value - ends.value[0]) / (ends.value[1] - ends.value[0] || 1)) * W
const bars = computed(() => {
  const counts = histogram.value?.counts ?? []
  const most = Math.max(1, ...counts)
  return counts.map((value, at) => ({ x: (at * W) / counts.length + 1, width: Math.max(1, W / counts.length - 2), tall: value ? Math.max(2, (value / most) * (H - 30)) : 0 }))
})
/** Where each cut is drawn: between two whole numbers, else at the value itself. */
const cuts = computed(() => props.bands.slice(0, -1).map((each) => Number(each.high)))
const drawn = computed(() => cuts.value.map((value) => x(props.whole ? value + (histogram.value && !Number.isInteger(histogram.value.edges[0]) ? 0.5 : 1) : value)))
const regions = computed(() => [0, ...drawn.value].map((from, at) => ({ from: Math.max(0, Math.min(W, from)), to: Math.max(0, Math.min(W, drawn.value[at] ?? W)) })))

const svg = ref<SVGSVGElement>()
const held = ref<number | null>(null)
function set(at: number, value: number): void {
  const cut = cutAt(props.bands, at, value, props.whole, ends.value)
  if (cut) emit('bands', cut)
}
function drag(event: PointerEvent): void {
  if (held.value === null || !svg.value) return
  const box = svg.value.getBoundingClientRect()
  set(held.value, ends.value[0] + ((event.clientX - box.left) / box.width) * (ends.value[1] - ends.value[0]))
}
const step = computed(() => (props.whole ? 1 : 10 ** Math.floor(Math.log10((ends.value[1] - ends.value[0] || 1) / 50))))
function key(event: KeyboardEvent, at: number): void {
  const by = { ArrowLeft: -1, ArrowRight: 1, PageDown: -10, PageUp: 10 }[event.key]
  if (!by) return
  event.preventDefault()
  set(at, cuts.value[at]! + by * step.value)
}
</script>

<template>
  <div class="bands" data-test="band-picture">
    <svg ref="svg" :viewBox="`0 0 ${W} ${H}`" role="group" aria-label="Distribution with the cuts of its bands" @pointermove="drag" @pointerup="held = null" @pointerleave="held = null">
      <rect v-for="(each, at) in regions" :key="`r${at}`" :x="each.from" y="0" :width="Math.max(0, each.to - each.from)" :height="H - 22" :class="at % 2 ? 'odd' : 'even'" />
      <text x="2" :y="H - 5" class="end">{{ figure(whole ? Math.ceil(ends[0]) : ends[0]) }}</text><text :x="W - 2" :y="H - 5" class="end" text-anchor="end">{{ figure(whole ? Math.floor(ends[1]) : ends[1]) }}</text>
      <rect v-for="(bar, at) in bars" :key="`b${at}`" class="bar" :x="bar.x" :y="H - 22 - bar.tall" :width="bar.width" :height="bar.tall" />
      <g
        v-for="(at, number) in drawn" :key="`c${number}`" class="cut" tabindex="0" role="slider" :aria-label="`Cut between band ${number + 1} and ${number + 2}`" :aria-valuenow="cuts[number]"
        :data-test="`cut-${number}`" @pointerdown.prevent="((held = number), ($event.currentTarget as SVGGElement).focus())" @keydown="key($event, number)"
      >
        <rect :x="at - 12" y="0" width="24" :height="H - 22" fill="transparent" />
        <line :x1="at" :x2="at" y1="0" :y2="H - 22" /><circle :cx="at" cy="10" r="7" />
        <text :x="Math.min(Math.max(at, 20), W - 20)" :y="H - 5" text-anchor="middle">{{ figure(cuts[number]) }}</text>
      </g>
    </svg>
    <BandRows :bands="bands" :table="table" @cut="set" @bands="emit('bands', $event)" />
    <p v-if="listable"><button class="act" data-test="as-list" title="The variable itself is shown in these bands; no entry changes, and nothing new is made" @click="emit('list', bands)">only show it in these bands, as its own list</button></p>
  </div>
</template>

<style scoped>
svg {
  width: 100%;
  display: block;
  touch-action: none;
}

.even {
  fill: var(--white);
}

.odd {
  fill: var(--leaf-pale);
}

.bar {
  fill: var(--leaf);
}

.cut {
  cursor: ew-resize;
}

.cut line {
  stroke: var(--soil);
  stroke-width: 2;
}

.cut circle {
  fill: var(--sun);
  stroke: var(--soil);
  stroke-width: 1.5;
}

.cut text {
  font: 12px var(--mono);
  fill: var(--soil);
}

.end {
  font: 12px var(--mono);
  fill: var(--soft);
}

.cut:focus-visible circle {
  stroke: var(--ink);
  stroke-width: 3;
}
</style>
