<script setup lang="ts">
/** The foot of a table: how many records stand in it, and which do not, and why. */
import { computed } from 'vue'

import type { Schema } from '@/api/client'
import { count, counted } from '@/study/shown'

const { left, inside } = defineProps<{ left: readonly Schema['Left'][]; inside: number }>()
const said = computed(() =>
  [...new Set(left.map((each) => each.variable))].map((name) => {
    const why = left.filter((each) => each.variable === name).map(({ records, words }) => `${count(records)} ${words}`)
    return `${name}: ${why.join(', ')}`
  }),
)
</script>

<template>
  <p class="foot" data-foot data-test="left-out"><b>{{ counted(inside, 'record stands', 'records stand') }} in the table.</b> <span v-if="said.length" class="out">Left out, {{ said.join('; ') }}.</span></p>
</template>

<style scoped>
.foot {
  margin-top: 10px;
  font-size: 13px;
}

.out {
  color: var(--straw-ink);
}
</style>
