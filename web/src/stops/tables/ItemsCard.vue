<script setup lang="ts">
/** The items of a battery together: how they go together, how they are ordered, and one by one instead. */
import { computed } from 'vue'

import type { Schema } from '@/api/client'
import BatteryTable from './BatteryTable.vue'
import SeveralTable from './SeveralTable.vue'
import ViewCard from './ViewCard.vue'
import type { AnyLook, Together } from './wish'

const { look } = defineProps<{ title: string; look: AnyLook; sorted: boolean }>()
const emit = defineEmits<{ set: [change: Together] }>()

const named = ({ label, name }: Schema['Variable']): string => label || name
/** Alpha, and what runs against the rest. */
const said = computed(() => {
  if (look.view !== 'battery') return ''
  const against = look.items.filter((item) => item.against).map((item) => named(item.variable))
  const parts = [typeof look.alpha === 'number' ? `alpha ${look.alpha.toFixed(2)}` : '', against.length ? `${against.join(', ')} ${against.length === 1 ? 'runs' : 'run'} against the rest` : '']
  return parts.filter(Boolean).join(' · ')
})
const sort = (event: Event): void => emit('set', { sorted: (event.target as HTMLSelectElement).value !== '' })
</script>

<template>
  <ViewCard :title="title" name="battery" data-test="battery">
    <template #title>{{ title }} <span class="soft said">{{ said }}</span></template>
    <template #ways>
      <select v-if="look.view !== 'refused'" :value="sorted ? 'sorted' : ''" aria-label="Order of the items" data-test="battery-order" @change="sort"><option value="">as asked</option><option value="sorted">{{ look.view === 'several' ? 'by count' : 'by agreement' }}</option></select>
      <v-btn data-test="one-by-one" @click="emit('set', { apart: true })">One by one</v-btn>
    </template>
    <BatteryTable v-if="look.view === 'battery'" :table="look" />
    <SeveralTable v-else-if="look.view === 'several'" :table="look" />
    <p v-else-if="look.view === 'refused'" class="beet" role="alert" data-test="refused-view">{{ look.title }} {{ look.detail }}</p>
  </ViewCard>
</template>

<style scoped>
.said {
  font-size: 13px;
  font-weight: 400;
  margin-left: 8px;
}
</style>
