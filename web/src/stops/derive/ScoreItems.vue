<script setup lang="ts">
/** The items of a score with their reliability; one that is keyed the other way round can be turned by a click. */
import type { Schema } from '@/api/client'
import { count } from '@/study/shown'

defineProps<{ reliability: Schema['ReliabilityModel'] }>()
const emit = defineEmits<{ turn: [item: string] }>()
const two = (value: number | null): string => (value === null ? '–' : value.toFixed(2))
const isTurned = (said: string): boolean => said.toLowerCase().startsWith('reverse(')
</script>

<template>
  <table class="items" data-test="reliability">
    <caption>Cronbach’s alpha <b data-test="alpha">{{ two(reliability.alpha) }}</b> over {{ count(reliability.records) }} records in which all items are valid</caption>
    <thead><tr><th scope="col">item</th><th scope="col" class="right">with the others</th><th scope="col" class="right">alpha without it</th><th /></tr></thead>
    <tbody>
      <tr v-for="item in reliability.items" :key="item.said">
        <th scope="row" class="mono">{{ item.said }}</th>
        <td class="right" :class="{ beet: (item.rest ?? 0) < 0 }">{{ two(item.rest) }}</td>
        <td class="right">{{ two(item.without) }}</td>
        <td><button class="act" :data-test="`turn-${item.said}`" @click="emit('turn', item.said)">{{ isTurned(item.said) ? 'as it is keyed' : 'turn it round' }}</button></td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.items {
  border-collapse: collapse;
  font-size: 13px;
  margin: 14px 0;
  background: var(--white);
  border: 1px solid var(--line2);
}

caption {
  text-align: left;
  padding: 0 0 6px;
}

th,
td {
  padding: 4px 14px;
  font-weight: 400;
  text-align: left;
  border-top: 1px solid var(--line);
}

.right {
  text-align: right;
}
</style>
