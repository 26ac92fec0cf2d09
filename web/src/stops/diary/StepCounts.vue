<script setup lang="ts">
/** How many steps would be done whole, in part, not at all. */
import { computed } from 'vue'

import { count } from '@/study/shown'

const props = defineProps<{ came: string[]; word: string }>()
const number = (...of: string[]): number => props.came.filter((each) => of.includes(each)).length
const whole = computed(() => number('done', 'nothing to do'))
</script>

<template>
  <div class="cards">
    <div><b>{{ count(whole) }}</b>{{ word }}</div>
    <div :class="{ part: number('in part') }"><b>{{ count(number('in part')) }}</b>in part</div>
    <div :class="{ stuck: number('not possible') }"><b>{{ count(number('not possible')) }}</b>not possible</div>
  </div>
</template>

<style scoped>
.cards {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 10px;
  margin: 18px 0;
}

.cards div {
  background: var(--white);
  border: 1px solid var(--line2);
  border-radius: 7px;
  padding: 9px 15px;
  font-size: 13px;
  color: var(--soft);
}

.cards b {
  display: block;
  font-size: 22px;
  line-height: 30px;
  color: var(--ink);
}

.cards .part {
  border-color: var(--straw);
}

.cards .stuck {
  border-color: var(--beet);
}
</style>
