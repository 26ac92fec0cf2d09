<script setup lang="ts">
/** A formula as it is typed: what it means is said below; what is wrong is marked under its characters. */
import { computed, watch } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { useAsked } from '@/study/asked'
import { count } from '@/study/shown'
import { useStudy } from '@/study/store'
import SentenceField from './SentenceField.vue'
import { useTyped } from './typed'

type Look = Schema['FormulaLook']

const text = defineModel<string>({ required: true })
const props = defineProps<{ label: string; condition?: boolean }>()
const emit = defineEmits<{ look: [look: Look | null] }>()
const study = useStudy()
const asked = useTyped(text)
const look = useAsked(
  'formula',
  () => [study.id, asked.value, study.stamp({ tags: 'all', entries: 'all', shelves: ['list'], order: true, records: true })] as const,
  ([id, formula]) => (formula.trim() ? got(api.POST('/api/studies/{study_id}/formula', { params: { path: { study_id: id } }, body: { text: formula } })).then((found) => ({ found, formula })) : null),
)
/** What is known of the very text that stands there. */
const known = computed(() => (look.value?.formula === text.value && text.value.trim() ? look.value.found : null))
watch(known, (found) => emit('look', found), { immediate: true })
const problem = computed(() => known.value?.problem ?? null)
const said = computed(() => {
  const found = known.value
  if (!found) return ''
  if (found.problem) return [found.problem.what, found.problem.remedy].filter(Boolean).join(' ')
  if (found.held) return `${count(found.held.met)} records meet it, ${count(found.held.broken)} do not${found.held.unknown ? `, of ${count(found.held.unknown)} it cannot be told` : ''}.`
  return props.condition ? 'This is no condition: a rule is met or not, such as hours <= 80.' : ''
})
</script>

<template>
  <SentenceField v-model="text" :label="label" :problem="problem" :said="said" />
</template>
