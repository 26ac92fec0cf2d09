<script setup lang="ts">
/** The record so far, question by question; where one is stands out. */
import { computed, nextTick, useTemplateRef, watch } from 'vue'

import VirtualList from '@/parts/VirtualList.vue'
import type { Keyed } from './keyed'

const props = defineProps<{ keyed: Keyed; drawn: number }>()
const emit = defineEmits<{ go: [variable: string] }>()
const list = useTemplateRef<{ show: (index: number) => void }>('list')

interface Line {
  key: string
  head?: string
  id?: string
  name?: string
  said?: string
  here?: boolean
}

const lines = computed<Line[]>(() => {
  void props.drawn
  const stop = props.keyed.stop
  let head = ''
  return props.keyed.questions.flatMap((question) => {
    const title = question.title || question.section || 'Single questions'
    const begin: Line[] = title === head ? [] : [{ key: `head ${title} ${question.variables[0]!.id}`, head: title }]
    head = title
    return [...begin, ...question.variables.map((each) => {
      const entry = props.keyed.entries.get(each.id) ?? ''
      const label = each.answers.find((one) => one.code === entry)?.label ?? ''
      const here = stop?.question === question && (stop.ticks || stop.variable.id === each.id)
      return { key: each.id, id: each.id, name: each.name, said: [entry, label].filter(Boolean).join(' '), here }
    })]
  })
})
watch(lines, () => void nextTick(() => list.value?.show(lines.value.findIndex((line) => line.here))), { flush: 'post' })
</script>

<template>
  <VirtualList ref="list" :items="lines" class="far scroll" aria-label="The record so far" data-test="so-far">
    <template #default="{ item: line }">
      <h3 v-if="line.head" class="section">{{ line.head }}</h3>
      <button v-else class="line" :class="{ here: line.here }" tabindex="-1" :data-test="`far-${line.name}`" @click="emit('go', line.id!)">
        <span class="mono">{{ line.name }}</span><span class="said">{{ line.said }}</span>
      </button>
    </template>
  </VirtualList>
</template>

<style scoped>
.far {
  width: 292px;
  flex: none;
  background: var(--bed);
  border-right: 1px solid var(--line2);
}

.section {
  padding: 12px 16px 4px;
  font-size: 12px;
  font-weight: 600;
  color: var(--soil);
}

.line {
  display: flex;
  width: 100%;
  min-height: 27px;
  gap: 12px;
  align-items: baseline;
  padding: 2px 16px;
  font-size: 13px;
  text-align: left;
}

.line .mono {
  width: 98px;
  flex: none;
  overflow: hidden;
  text-overflow: ellipsis;
  font-weight: 600;
}

.said {
  color: var(--soft);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.here,
.here .said {
  background: var(--leaf);
  color: var(--paper);
}
</style>
