<script setup lang="ts">
/** A column as a proposed tag: what it looks like, how much of it is read, what wants a look. */
import { computed } from 'vue'

import FillBar from '@/parts/FillBar.vue'
import PartSelect from '@/parts/PartSelect.vue'
import { count, LEVEL_SIGNS, LEVELS, TYPES, USES } from '@/study/shown'
import type { Choice, Column } from './intake'

const props = defineProps<{ column: Column; out: boolean; on: boolean; narrow: boolean }>()
const emit = defineEmits<{ choose: [part: Choice]; pick: [event: MouseEvent | KeyboardEvent] }>()

const tag = computed(() => props.column.tag)
const wants = computed(() => {
  const { strays, stray_kinds: kinds, suspects, fill, doubt } = props.column
  const shown = strays.slice(0, 2).map((each) => `“${each.entry}” ×${count(each.count)}`)
  const unread = fill.stray ? `${count(fill.stray)} do not fit: ${shown.join(', ')}${kinds > 2 ? ' …' : ''}` : ''
  const codes = suspects.map((each) => each.entry).slice(0, 4)
  const missing = codes.length && !tag.value.missing?.length ? `${codes.join(', ')} may stand for missing` : ''
  return [doubt, unread, missing].filter(Boolean).join('; ')
})
</script>

<template>
  <div class="row" :class="{ out, on, narrow }" role="row" :aria-selected="on" :data-test="`column-${tag.name}`">
    <button class="tag" :aria-pressed="on" :data-test="`pick-${tag.name}`" :title="`${tag.name}: select, or look at it closely`" @click="emit('pick', $event)">
      <span class="sign mono">{{ LEVEL_SIGNS[tag.level!] }}</span>
      <span class="words">
        <span class="name mono" :title="column.head">{{ tag.name }}</span>
        <span class="label">{{ tag.label || tag.question }}</span>
      </span>
    </button>
    <div class="parts">
      <PartSelect :model-value="tag.type!" :options="TYPES" :label="`Type of ${tag.name}`" @update:model-value="emit('choose', { type: $event })" />
      <PartSelect :model-value="tag.level!" :options="LEVELS" :label="`Level of ${tag.name}`" @update:model-value="emit('choose', { level: $event })" />
      <PartSelect :model-value="tag.use!" :options="USES" :label="`Use of ${tag.name}`" @update:model-value="emit('choose', { use: $event })" />
    </div>
    <FillBar :fill="column.fill" class="fill" />
    <span v-if="!narrow" class="soft cut" :title="column.evidence">{{ column.evidence }}</span>
    <span class="beet cut" :title="wants">{{ wants }}</span>
    <button class="act" @click="emit('choose', { leave_out: !out })">{{ out ? 'take it' : 'leave out' }}</button>
  </div>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: 200px 250px 90px minmax(120px, 1fr) minmax(140px, 1.4fr) 62px;
  gap: 14px;
  align-items: center;
  height: 52px;
  border-bottom: 1px solid var(--line);
  font-size: 13px;
}

.narrow {
  grid-template-columns: 180px 236px 70px minmax(90px, 1fr) 62px;
}

.on {
  background: var(--leaf-pale);
}

.out > :not(:last-child) {
  opacity: 0.4;
}

.tag {
  height: 44px;
  display: flex;
  align-items: center;
  gap: 10px;
  text-align: left;
  background: var(--white);
  clip-path: polygon(13px 0, 100% 0, 100% 100%, 13px 100%, 0 50%);
  padding: 4px 8px 4px 15px;
}

.tag:focus-visible {
  outline-offset: -3px;
}

.sign {
  color: var(--soil);
  font-weight: 700;
}

.words {
  min-width: 0;
  display: grid;
}

.name {
  font-weight: 600;
}

.name,
.label {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.label {
  font-size: 12px;
  color: var(--soft);
}

.parts {
  display: flex;
  gap: 10px;
}

.fill {
  width: 100%;
}
</style>
