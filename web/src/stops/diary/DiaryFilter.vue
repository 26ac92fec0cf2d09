<script setup lang="ts">
/** Which steps of the diary are shown: those that concern a variable, are of a kind, by somebody, of a day. */
import { computed } from 'vue'

import KeptInput from '@/parts/KeptInput.vue'
import { useStudy } from '@/study/store'
import type { Wanted } from './filter'

const wanted = defineModel<Wanted>({ required: true })
const props = defineProps<{ kinds: string[]; people: string[] }>()
const study = useStudy()
const kinds = computed(() => [...new Set([...props.kinds, ...(wanted.value.kind ? [wanted.value.kind] : [])])].sort())
const people = computed(() => [...new Set([...props.people, ...(wanted.value.by ? [wanted.value.by] : [])])].sort())
const any = computed(() => Object.values(wanted.value).some(Boolean))
const set = (part: keyof Wanted, text: string): void => void (wanted.value = { ...wanted.value, [part]: text })
const chosen = (event: Event): string => (event.target as HTMLSelectElement).value
</script>

<template>
  <p class="filter" role="search" aria-label="Filter the diary">
    <KeptInput list="diary-variables" :value="wanted.variable" :keep="(text) => set('variable', text)" placeholder="variable" aria-label="Steps that concern a variable" data-test="diary-variable" />
    <datalist id="diary-variables"><option v-for="each in study.variables" :key="each.id" :value="each.name" /></datalist>
    <select :value="wanted.kind" aria-label="Steps of a kind" data-test="diary-kind" @change="set('kind', chosen($event))"><option value="">any kind</option><option v-for="each in kinds" :key="each" :value="each">{{ each }}</option></select>
    <select v-if="people.length > 1 || wanted.by" :value="wanted.by" aria-label="Steps by somebody" data-test="diary-by" @change="set('by', chosen($event))"><option value="">anybody</option><option v-for="each in people" :key="each" :value="each">{{ each }}</option></select>
    <input type="date" :value="wanted.day" aria-label="Steps of a day" data-test="diary-day" @change="set('day', chosen($event))" />
    <button v-if="any" class="act" data-test="diary-all" @click="wanted = { variable: '', kind: '', by: '', day: '' }">show all</button>
  </p>
</template>

<style scoped>
.filter {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin-bottom: 10px;
}

input,
select {
  height: 30px;
  max-width: 170px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 8px;
  font-size: 13px;
}
</style>
