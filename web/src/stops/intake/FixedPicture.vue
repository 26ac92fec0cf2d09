<script setup lang="ts">
/** The first lines of fixed-column text; a click between two characters sets a break there or takes it away. */
import { computed } from 'vue'

import { useStudy } from '@/study/store'
import FieldWidths from './FieldWidths.vue'
import type { FileSeen, Intake, Settings } from './intake'
import { firstDataRow, marked, roleOf, ROLES } from './rows'

const props = defineProps<{ file: FileSeen; takeFields: Intake['takeFields'] }>()
const emit = defineEmits<{ change: [change: Partial<Settings>] }>()
const study = useStudy()

const SHOWN = 12
const settings = computed(() => props.file.settings)
const lines = computed(() => props.file.rows.slice(0, Math.max(SHOWN, firstDataRow(settings.value) + 3)).map((row) => row[0] ?? ''))
const longest = computed(() => Math.max(1, ...lines.value.map((line) => line.length)))
const breaks = computed(() => new Set(settings.value.fields?.map((field) => field.start - 1)))
const tens = computed(() => Array.from({ length: Math.ceil(longest.value / 10) }, (_, ten) => String((ten + 1) * 10).padStart(10)).join('').slice(0, longest.value))
const named = computed(() => settings.value.fields?.some((field) => field.name))

function toggle(at: number): void {
  const next = new Set(breaks.value)
  if (!next.delete(at)) next.add(at)
  next.add(0)
  const begins = [...next].sort((one, other) => one - other)
  const last = settings.value.fields?.at(-1)
  const end = Math.max(longest.value, last ? last.start + last.width - 1 : 0)
  const fields = begins.map((begin, index) => ({ start: begin + 1, width: (begins[index + 1] ?? end) - begin, name: '' }))
  emit('change', { fields })
}
</script>

<template>
  <div class="fixed">
    <p class="hint">
      <template v-if="breaks.size > 1">{{ breaks.size }} fields.</template> Click between two characters to set a break, or to take it away.
      <FieldWidths :study="study.id" :take="takeFields" />
      <span v-if="named" class="soft">Names come from the codebook.</span>
    </p>
    <div class="panel scroll lines mono" data-wide tabindex="0" aria-label="First lines of the file" data-test="picture">
      <div class="line ruler"><span class="stub" /><span class="text">{{ tens }}</span></div>
      <div v-for="(line, index) in lines" :key="index" class="line" :class="roleOf(settings, index + 1)">
        <span class="stub">
          <span class="number">{{ index + 1 }}</span>
          <span class="said">{{ ROLES[roleOf(settings, index + 1) as keyof typeof ROLES] ?? '' }}</span>
          <span class="marks">
            <button v-for="role in (['names', 'data'] as const)" :key="role" :data-test="`mark-${role}-${index + 1}`" :aria-label="`Row ${index + 1}: ${ROLES[role]}`" @click="emit('change', marked(settings, role, index + 1))">{{ role }}</button>
          </span>
        </span>
        <span class="text">
          <span
            v-for="at in longest" :key="at" class="character" :class="{ begins: at > 1 && breaks.has(at - 1) }"
            :data-test="index === 0 ? `break-${at - 1}` : undefined" @click="at > 1 && toggle(at - 1)"
          >{{ line[at - 1] ?? ' ' }}</span>
        </span>
      </div>
    </div>
  </div>
</template>

<style scoped>
.hint {
  display: flex;
  gap: 10px;
  align-items: center;
  font-size: 13px;
  margin-bottom: 8px;
}

.lines {
  max-height: 262px;
  font-size: 14px;
}

.line {
  display: flex;
  height: 24px;
  line-height: 24px;
  width: max-content;
}

.stub {
  position: sticky;
  left: 0;
  z-index: 1;
  width: 168px;
  flex: none;
  padding: 0 10px;
  background: var(--bed);
  color: var(--soft);
  font: 13px / 24px var(--sans);
}

.number {
  display: inline-block;
  width: 20px;
  text-align: right;
  margin-right: 10px;
  font-size: 12px;
}

.ruler {
  color: var(--dim);
  font-size: 14px;
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--bed);
}

.text {
  white-space: pre;
  padding-left: 6px;
}

.character {
  display: inline-block;
  cursor: col-resize;
  border-left: 1px solid transparent;
  margin-left: -1px;
}

.character:hover {
  border-left-color: var(--edge);
}

.begins {
  border-left: 2px solid var(--leaf);
  margin-left: -2px;
}

.names .stub,
.data .stub {
  background: var(--leaf-deep);
  color: #fff;
}

.names .text {
  background: var(--leaf-pale);
  font-weight: 650;
}

.above .text {
  color: var(--dim);
}

.marks {
  position: absolute;
  inset: 1px 2px 1px 36px;
  display: flex;
  gap: 2px;
  opacity: 0;
}

.line:hover .marks,
.marks:focus-within {
  opacity: 1;
}

.marks button {
  flex: 1;
  font-size: 12px;
  border-radius: 4px;
  background: var(--white);
  color: var(--ink);
  border: 1px solid var(--edge);
}
</style>
