<script setup lang="ts">
/** The steps of a routine, and what each of them would do. */
import type { Schema } from '@/api/client'
import { SAID } from './amending'

defineProps<{ lines: Schema['RoutineLine'][] }>()
</script>

<template>
  <ol class="lines" tabindex="0" aria-label="Steps">
    <li v-for="each in lines" :key="each.line" :class="each.came.replace(' ', '-')" data-test="routine-line">
      <span v-if="each.line" class="soft mono">{{ each.line }}</span>
      <span><span class="clamped">{{ each.sentence || each.do }}</span><template v-if="each.came !== 'done'"><small>{{ SAID[each.came] }}: {{ each.why.join('; ') }}</small></template></span>
    </li>
  </ol>
</template>

<style scoped>
.lines {
  list-style: none;
  padding: 0;
  margin: 0 0 18px;
  max-height: 280px;
  overflow-y: auto;
  background: var(--white);
  border: 1px solid var(--line2);
  font-size: 13px;
}

.lines li {
  display: flex;
  padding: 4px 10px;
  border-bottom: 1px solid var(--line);
}

.mono {
  flex: 0 0 44px;
}

small {
  display: block;
}

.in-part small {
  color: var(--straw-ink);
}

.not-possible small {
  color: var(--beet);
}
</style>
