<script setup lang="ts">
/** Two editions, or one and the study as it is now, and what differs between them. */
import { ref, watch } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { useKeys } from '@/frame/keys'
import { useAsked } from '@/study/asked'
import { useStudy } from '@/study/store'
import ComparedStates from './ComparedStates.vue'
import SidePanel from './SidePanel.vue'

const props = defineProps<{ editions: Schema['Edition'][]; first: string }>()
const emit = defineEmits<{ leave: [] }>()
useKeys({ 'leave amendment': () => emit('leave') })
const study = useStudy()
const one = ref(props.first)
const other = ref('now')
watch(() => props.first, (id) => (one.value = id))
const compared = useAsked(
  'compared',
  () => [study.id, one.value, other.value, study.revision] as const,
  ([study_id, before, after]) => (before ? got(api.GET('/api/studies/{study_id}/compared', { params: { path: { study_id }, query: { one: before, other: after } } })) : null),
)
</script>

<template>
  <SidePanel title="Two editions compared" label="Two editions compared" data-test="compare-panel">
    <p class="pair">
      <select v-model="one" aria-label="Before" data-test="compare-one"><option v-for="each in editions" :key="each.id" :value="each.id">{{ each.name }}</option><option value="now">the study as it is now</option></select>
      <span aria-hidden="true">→</span>
      <select v-model="other" aria-label="After" data-test="compare-other"><option value="now">the study as it is now</option><option v-for="each in editions" :key="each.id" :value="each.id">{{ each.name }}</option></select>
    </p>
    <ComparedStates v-if="compared" :compared="compared" />
    <template #foot>
      <a class="act" :href="`/api/studies/${study.id}/comparison?one=${one}&other=${other}`" download data-test="compare-page">as a page to put away</a>
      <span class="grow" />
      <v-btn variant="outlined" @click="emit('leave')">Close &nbsp;<kbd>Esc</kbd></v-btn>
    </template>
  </SidePanel>
</template>

<style scoped>
.pair {
  display: flex;
  gap: 10px;
  align-items: center;
  margin: 14px 0;
}

select {
  flex: 1;
  min-width: 0;
  height: 32px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 8px;
}
</style>
