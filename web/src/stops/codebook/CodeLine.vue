<script setup lang="ts">
/** A listed code or a missing code: label and reason change in place; the bar is its count. */
import type { TableRow } from '@/api/client'
import PartSelect from '@/parts/PartSelect.vue'
import PlainField from '@/parts/PlainField.vue'
import { count, counted, REASONS } from '@/study/shown'
import CountBar from './CountBar.vue'
import type { Page } from './page'
import ReasonMenu from '@/parts/ReasonMenu.vue'

defineProps<{ row: TableRow; most: number; actions: Page; of: number }>()
const emit = defineEmits<{ move: [by: number]; drag: []; drop: [] }>()
</script>

<template>
  <div
    class="line" :class="{ missing: row.reading === 'missing', unused: row.count === 0 }" :data-test="`code-${row.code}`"
    @dragover.prevent @drop.prevent="emit('drop')"
    @keydown.alt.up.prevent="emit('move', -1)" @keydown.alt.down.prevent="emit('move', 1)"
  >
    <span
      v-if="row.reading === 'valid'" class="grip" draggable="true" title="Drag, or Alt+↑ and Alt+↓ in the label"
      @dragstart="emit('drag')"
    >⠿</span>
    <span v-else />
    <span class="code line-code mono" :title="row.code">{{ row.code }}</span>
    <PlainField
      v-if="row.reading === 'valid'" data-test="code-label" :value="row.mixed ? '' : row.label" :label="`Label of ${row.code}`" :placeholder="row.mixed ? 'labels differ' : 'no label'"
      :keep="(label) => actions.list([{ row, label }])" :keep-all="(label) => actions.relabel(row, label)"
    />
    <PlainField
      v-else :value="row.mixed ? '' : row.label" :label="`Label of ${row.code}`" :placeholder="row.mixed ? 'differs' : 'no label'"
      :keep="(label) => actions.markMissing(row, row.reason ?? 'other', label)"
    />
    <span class="reason">
      <PartSelect
        v-if="row.reading === 'missing'" class="chip" :model-value="row.reason ?? 'other'" :options="REASONS"
        :label="`Why ${row.code} is missing`" @update:model-value="actions.markMissing(row, $event)"
      />
      <span v-else class="quiet"><ReasonMenu word="missing…" :label="`Set ${row.code} aside as missing`" @chosen="actions.markMissing(row, $event)" /></span>
    </span>
    <span class="count right" :title="row.count ? undefined : 'Listed, and never occurs'"><small v-if="of > 1 && row.within! < of" class="soft" :title="`Listed in ${row.within} of ${of} tags`">{{ row.within }}/{{ of }}</small> {{ count(row.count) }}</span>
    <span class="end">
      <small v-if="!row.count" class="soft idle">unused</small>
      <CountBar v-else :count="row.count" :most="most" :kind="row.reading === 'missing' ? 'missing' : 'valid'" />
      <button class="off quiet" :aria-label="`Take ${row.code} off the list`" :title="`Take off the list: ${counted(row.count, 'entry', 'entries')} would be unlisted`" @click="actions.drop(row)">×</button>
    </span>
  </div>
</template>

<style scoped>
.line {
  display: grid;
  align-items: center;
  column-gap: 8px;
  min-height: 34px;
  border-bottom: 1px solid var(--line);
}

.grip {
  color: var(--edge);
  cursor: grab;
  font-size: 13px;
}

.unused .code,
.unused .count {
  color: var(--dim);
  font-weight: 400;
}

.chip :deep(select) {
  font-size: 12px;
  background: var(--straw-pale);
  color: var(--straw-ink);
  border-radius: 3px;
  padding: 2px 6px;
}

.chip {
  border: 0;
}

.count {
  font-size: 13.5px;
}

.end {
  display: flex;
  gap: 4px;
  align-items: center;
}

.quiet {
  opacity: 0;
}

.line:hover .quiet,
.line:focus-within .quiet {
  opacity: 1;
}

.idle {
  flex: 1;
}

.off {
  width: 24px;
  height: 24px;
  color: var(--soft);
}

.off:hover {
  color: var(--beet);
}
</style>
