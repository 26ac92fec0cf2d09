<script setup lang="ts">
/** The distribution with the cuts of its bands, which are dragged, moved by arrow keys, or typed; and what each band is called and holds. */
import { computed, ref } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { useAsked } from '@/study/asked'
import { count, figure } from '@/study/shown'
import { useStudy } from '@/study/store'
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
  const step = props.whole ? 1 : 0
  const low = at ? cuts.value[at - 1]! + step : ends.value[0]
  const high = at < cuts.value.length - 1 ? cuts.value[at + 1]! - step : ends.value[1]
  const bounded = Math.min(Math.max(value, low), high)
  if (Number.isFinite(bounded) && bounded !== cuts.value[at]) emit('bands', cutAt(props.bands, at, bounded, props.whole))
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
const rows = computed(() => props.bands.map((band, at) => ({ band, side: props.table.new.find((each) => each.code === String(at + 1) && each.reading === 'valid') })))
const rest = computed(() => props.table.new.filter((each) => each.reading !== 'valid' && each.count))
function relabel(at: number, event: Event): void {
  const label = (event.target as HTMLInputElement).value.trim()
  emit('bands', props.bands.map((each, number) => (number === at ? { ...each, label: label || null } : each)))
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
    <table class="rows">
      <thead><tr><th scope="col">code</th><th scope="col">from</th><th scope="col">to</th><th scope="col">label</th><th scope="col" class="right">records</th></tr></thead>
      <tbody>
        <tr v-for="({ band, side }, at) in rows" :key="at">
          <th scope="row" class="mono">{{ at + 1 }}</th>
          <td class="mono">{{ band.low === null ? 'lowest' : `${band.above ? 'above ' : ''}${band.low}` }}</td>
          <td><template v-if="at < rows.length - 1"><span v-if="band.below" class="soft">below </span><input class="mono" :value="band.high" :aria-label="`Upper end of band ${at + 1}`" :data-test="`end-${at}`" @change="set(at, Number(($event.target as HTMLInputElement).value))" /></template><span v-else class="mono">{{ band.high === null ? 'highest' : band.high }}</span></td>
          <td><input class="label" :value="band.label ?? side?.label" :aria-label="`Label of band ${at + 1}`" :data-test="`band-label-${at}`" @change="relabel(at, $event)" /></td>
          <td class="right">{{ count(side?.count ?? 0) }}</td>
        </tr>
        <tr v-for="each in rest" :key="`${each.reading}${each.code}`" class="soft"><th scope="row" class="mono">{{ each.code }}</th><td colspan="3">{{ each.reading === 'blank' ? 'blank' : each.reading === 'missing' ? `${each.label}, stays missing` : 'stays a stray' }}</td><td class="right">{{ count(each.count) }}</td></tr>
      </tbody>
    </table>
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

.rows {
  border-collapse: collapse;
  margin-top: 12px;
  font-size: 13px;
  min-width: 620px;
}

.rows th,
.rows td {
  text-align: left;
  font-weight: 400;
  padding: 3px 18px 3px 0;
  border-bottom: 1px solid var(--line);
}

.rows .right {
  text-align: right;
  padding-right: 0;
}

.rows input {
  width: 76px;
  height: 26px;
  border: 1px solid var(--edge);
  border-radius: 5px;
  background: var(--white);
  padding: 0 7px;
}

.rows input.label {
  width: 240px;
}
</style>
