<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'

import type { Schema } from '@/api/client'
import { count, figure, weighed } from '@/study/shown'

/** `exact` has figures as texts to the last digit: a program's numbers round long ones. */
const props = defineProps<{ summary: Schema['Summary']; exact: Schema['VariableTable']['exact'] }>()
const ROWS = [
  { n: 'n', mean: 'mean', sd: 'sd' },
  { min: 'minimum', q1: 'lower quartile', median: 'median', q3: 'upper quartile', max: 'maximum' },
] as const

const MORE = [
  { variance: 'variance', se: 'standard error', range: 'range', mode: 'mode' },
  { low: '5 % quantile', high: '95 % quantile', skewness: 'skewness', kurtosis: 'kurtosis' },
] as const
/** Chosen once for all variables. */
const more = useLocalStorage('row-tag-more-figures', false)

const shown = (key: keyof Schema['Summary']): string =>
  key === 'n' ? count(props.summary.n) : (props.exact[key] ?? figure(props.summary[key]))
</script>

<template>
  <div class="figures" data-test="summary-figures">
    <dl v-if="typeof summary.weighed === 'number'"><div><dt>weighted n</dt><dd data-test="figure-weighed">{{ weighed(summary.weighed) }}</dd></div></dl>
    <dl v-for="(row, at) in [...ROWS, ...(more ? MORE : [])]" :key="at">
      <div v-for="(word, key) in row" :key="key"><dt>{{ word }}</dt><dd :data-test="`figure-${key}`">{{ shown(key) }}</dd></div>
    </dl>
    <p v-if="more && summary.modes > 1" class="soft">{{ summary.modes }} values are met equally often; the least of them is told.</p>
    <button class="act" :aria-expanded="more" data-test="more-figures" @click="more = !more">{{ more ? 'fewer figures' : 'more figures' }}</button>
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
