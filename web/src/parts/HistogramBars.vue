<script setup lang="ts">
/** A distribution as bars over a plain axis. */
import { computed } from 'vue'

import type { Schema } from '@/api/client'
import { counted, figure } from '@/study/shown'

const props = defineProps<{ histogram: Schema['Histogram']; span: string[] | null }>()

const W = 560
const H = 128
const top = computed(() => Math.max(1, ...props.histogram.counts))
const bars = computed(() => {
  const width = W / props.histogram.counts.length
  return props.histogram.counts.map((value, index) => {
    const height = value ? Math.max(2, (value / top.value) * H) : 0
    const from = props.histogram.edges[index] ?? 0
    const to = props.histogram.edges[index + 1] ?? 0
    return { x: index * width + 0.75, y: H - height, width: Math.max(1, width - 1.5), height, said: `${figure(from)} to ${figure(to)}: ${counted(value, 'entry', 'entries')}` }
  })
})
const ticks = computed(() => {
  const [low, high] = [props.histogram.edges[0] ?? 0, props.histogram.edges.at(-1) ?? 0]
  if (props.span) return [{ x: 0, said: props.span[0] }, { x: W, said: props.span[1] }]
  const rough = (high - low) / 5
  const size = 10 ** Math.floor(Math.log10(rough))
  const step = [1, 2, 5, 10].map((each) => each * size).find((each) => each >= rough) ?? rough
  const out = []
  for (let at = Math.ceil(low / step) * step; at <= high; at += step) {
    out.push({ x: ((at - low) / (high - low)) * W, said: String(Number(at.toPrecision(6))) })
  }
  return out
})
</script>

<template>
  <svg class="bars" :viewBox="`-6 -4 ${W + 12} ${H + 26}`" role="img" aria-label="Distribution of the valid entries" data-test="histogram">
    <rect v-for="(bar, index) in bars" :key="index" :x="bar.x" :y="bar.y" :width="bar.width" :height="bar.height"><title>{{ bar.said }}</title></rect>
    <line x1="0" :x2="W" :y1="H + 0.5" :y2="H + 0.5" />
    <text v-for="tick in ticks" :key="tick.x" :x="tick.x" :y="H + 16" :text-anchor="tick.x <= 0 ? 'start' : tick.x >= W ? 'end' : 'middle'">{{ tick.said }}</text>
  </svg>
</template>

<style scoped>
.bars {
  width: 100%;
  max-width: 572px;
  display: block;
  margin-bottom: 8px;
}

rect {
  fill: var(--leaf);
}

line {
  stroke: var(--line2);
}

text {
  font-size: 12px;
  fill: var(--soft);
}
</style>
