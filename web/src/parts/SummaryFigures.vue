<script setup lang="ts">
import type { Schema } from '@/api/client'
import { count, figure } from '@/study/shown'

/** `ends` are the least and the greatest as exact texts: a program's numbers round long ones. */
const props = defineProps<{ summary: Schema['Summary']; ends: Schema['VariableTable']['ends'] }>()
const FIGURES = {
  mean: 'mean', sd: 'sd', min: 'minimum', q1: 'lower quartile', median: 'median', q3: 'upper quartile', max: 'maximum',
} as const

function shown(key: keyof typeof FIGURES): string {
  const [least, greatest] = props.ends ?? []
  if (key === 'min' && least !== undefined) return least
  if (key === 'max' && greatest !== undefined) return greatest
  return figure(props.summary[key])
}
</script>

<template>
  <dl class="figures" data-test="summary-figures">
    <div><dt>n</dt><dd>{{ count(summary.n) }}</dd></div>
    <div v-for="(word, key) in FIGURES" :key="key"><dt>{{ word }}</dt><dd :data-test="`figure-${key}`">{{ shown(key) }}</dd></div>
  </dl>
</template>

<style scoped>
.figures {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 24px;
  margin: 8px 0 12px;
}

dt {
  font-size: 12.5px;
  color: var(--soft);
}

dd {
  margin: 0;
  font-size: 15px;
  font-weight: 650;
}
</style>
