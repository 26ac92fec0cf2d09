<script setup lang="ts">
import type { Schema } from '@/api/client'
import { count, figure } from '@/study/shown'

/** `exact` has figures as texts to the last digit: a program's numbers round long ones. */
const props = defineProps<{ summary: Schema['Summary']; exact: Schema['VariableTable']['exact'] }>()
const ROWS = [
  { n: 'n', mean: 'mean', sd: 'sd' },
  { min: 'minimum', q1: 'lower quartile', median: 'median', q3: 'upper quartile', max: 'maximum' },
] as const

const shown = (key: keyof Schema['Summary']): string =>
  key === 'n' ? count(props.summary.n) : (props.exact[key] ?? figure(props.summary[key]))
</script>

<template>
  <div class="figures" data-test="summary-figures">
    <dl v-for="(row, at) in ROWS" :key="at">
      <div v-for="(word, key) in row" :key="key"><dt>{{ word }}</dt><dd :data-test="`figure-${key}`">{{ shown(key) }}</dd></div>
    </dl>
  </div>
</template>

<style scoped>
.figures {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 20px;
  margin: 8px 0 12px;
}

/* The figures of a row stay together however narrow it is: none is left alone on a line. */
dl {
  display: grid;
  grid-auto-flow: column;
  grid-auto-columns: minmax(64px, max-content);
  gap: 8px 20px;
  margin: 0;
  min-width: 0;
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
