<script setup lang="ts">
/** A column as a proposed tag: what it looks like, how much of it is read, what wants a look. */
import { computed } from 'vue'

import FillBar from '@/parts/FillBar.vue'
import PartSelect from '@/parts/PartSelect.vue'
import { count, LEVEL_SIGNS, LEVELS, TYPES, USES } from '@/study/shown'
import type { Choice, Column } from './intake'

const props = defineProps<{ column: Column; choice: Choice | undefined; records: number }>()
const emit = defineEmits<{ choose: [part: Partial<Choice>] }>()

const level = computed(() => props.choice?.level ?? props.column.level)
const out = computed(() => props.choice?.leave_out ?? false)
const fill = computed(() => ({
  valid: props.column.read,
  missing: 0,
  blank: props.column.blank,
  stray: props.column.stray_count,
  unreadable: props.column.stray_count,
  unlisted: 0,
}))
const wants = computed(() => {
  const { strays, stray_count, suspects } = props.column
  const shown = strays.slice(0, 2).map((each) => `“${each.entry}” ×${count(each.count)}`)
  const unread = stray_count ? `${count(stray_count)} do not fit: ${shown.join(', ')}${strays.length > 2 ? ' …' : ''}` : ''
  const codes = suspects.map((each) => `${each.entry}`).slice(0, 4)
  const missing = codes.length ? `${codes.join(', ')} may stand for missing` : ''
  return [unread, missing].filter(Boolean).join('; ')
})
</script>

<template>
  <div class="row" :class="{ out }" :data-test="`column-${column.name}`">
    <div class="tag">
      <span class="sign mono">{{ LEVEL_SIGNS[level] }}</span>
      <div class="words">
        <div class="name mono" :title="column.head">{{ choice?.name ?? column.name }}</div>
        <div class="label">{{ column.label }}</div>
      </div>
    </div>
    <div class="parts">
      <PartSelect :model-value="choice?.type ?? column.type" :options="TYPES" :label="`Type of ${column.name}`" @update:model-value="emit('choose', { type: $event })" />
      <PartSelect :model-value="level" :options="LEVELS" :label="`Level of ${column.name}`" @update:model-value="emit('choose', { level: $event })" />
      <PartSelect :model-value="choice?.use ?? column.use" :options="USES" :label="`Use of ${column.name}`" @update:model-value="emit('choose', { use: $event })" />
    </div>
    <FillBar :fill="fill" class="fill" />
    <span class="soft cut" :title="column.evidence">{{ column.evidence }}</span>
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

.out > :not(:last-child) {
  opacity: 0.4;
}

.tag {
  height: 44px;
  display: flex;
  align-items: center;
  gap: 10px;
  background: var(--white);
  clip-path: polygon(13px 0, 100% 0, 100% 100%, 13px 100%, 0 50%);
  padding: 4px 8px 4px 15px;
}

.sign {
  color: var(--soil);
  font-weight: 700;
}

.words {
  min-width: 0;
}

.name {
  font-weight: 600;
}

.name,
.label,
.cut {
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
  width: 90px;
}
</style>
