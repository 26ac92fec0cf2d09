<script setup lang="ts">
/** One difference: what the sheet says, what the study says, what the data bear out; one of the two is chosen. */
import { computed, watch } from 'vue'

import type { Schema } from '@/api/client'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import type { Row, Side } from './compare'
import { effectOf } from './words'

const props = defineProps<{ row: Row; side: Side | null; change: Schema['Change'] | null; on: boolean }>()
const emit = defineEmits<{ decide: [side: Side | null]; seen: [] }>()
const study = useStudy()

watch(() => props.row, () => emit('seen'), { immediate: true })

const names = computed(() => props.row.ids.map((id) => study.byId.get(id)?.name ?? ''))
const effect = computed(() => (props.row.ids.length > 1 ? `${counted(props.row.ids.length, 'tag')} at once` : effectOf(props.change)))
const sides = computed(() => [
  { side: 'sheet' as const, text: props.row.difference.sheet, word: 'take the sheet’s' },
  { side: 'study' as const, text: props.row.difference.study, word: 'keep the study’s' },
])
</script>

<template>
  <div class="row" :class="{ head: row.head, on }" role="row" :data-test="`differs-${names[0]}-${row.difference.key.replace(' ', '-')}`">
    <div class="mono name" role="rowheader" :title="names.join(', ')">{{ row.head ? (names.length > 1 ? `${names[0]} … ${names.at(-1)}` : names[0]) : '' }}<p v-if="row.head && row.unsure" class="unsure" :title="row.unsure">unsure</p></div>
    <div class="soft" role="cell">{{ row.difference.part }}</div>
    <div v-for="each in sides" :key="each.side" role="cell">
      <button
        class="choice" :class="{ taken: side === each.side }" :aria-pressed="side === each.side" tabindex="-1" :data-test="`take-${each.side}`"
        :title="each.text" :aria-label="`${names[0]}, ${row.difference.part}: ${each.word}, ${each.text}`"
        @click="emit('decide', side === each.side ? null : each.side)"
      ><span :class="{ soft: each.text === 'none' || each.text === 'not listed' }">{{ each.text }}</span></button>
    </div>
    <div class="soft small" role="cell">{{ change?.data ?? row.difference.data }}</div>
    <div class="effect small" role="cell">{{ effect }}</div>
  </div>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: 124px 84px minmax(0, 1.15fr) minmax(0, 1fr) minmax(0, 0.85fr) 118px;
  gap: 8px;
  align-items: center;
  min-height: 46px;
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
  font-size: 13px;
}

.on {
  box-shadow: -8px 0 0 var(--paper), -11px 0 0 var(--leaf);
}

.name {
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.unsure {
  font: 400 12px/16px var(--sans);
  color: var(--beet);
}

.choice {
  width: 100%;
  min-height: 31px;
  padding: 4px 8px;
  border: 1px solid var(--line2);
  border-radius: 6px;
  background: var(--white);
  text-align: left;
  line-height: 19px;
}

.choice span {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 3;
  line-clamp: 3;
  overflow: hidden;
  overflow-wrap: anywhere;
}

.choice:hover {
  border-color: var(--edge);
}

.taken {
  border-color: var(--leaf);
  box-shadow: inset 4px 0 0 var(--leaf);
  background: var(--leaf-pale);
}

.small {
  font-size: 12.5px;
}

.effect {
  color: var(--leaf);
}
</style>
