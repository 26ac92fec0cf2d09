<script setup lang="ts">
/** How the file is read: guessed, shown, changeable. */
import { computed } from 'vue'

import { bytes } from '@/study/shown'
import { type FileSeen, type Kind, SEPARATORS, type Settings } from './intake'
import MoreSettings from './MoreSettings.vue'

const props = defineProps<{ file: FileSeen }>()
const emit = defineEmits<{ change: [change: Partial<Settings>]; kind: [kind: Kind]; another: [] }>()

const settings = computed(() => props.file.settings)
const isText = computed(() => settings.value.kind === 'delimited' || settings.value.kind === 'fixed')
const separators = computed(() => {
  const own = settings.value.separator
  return own in SEPARATORS ? SEPARATORS : { ...SEPARATORS, [own]: `“${own}”` }
})
const separator = computed(() => (settings.value.runs ? 'runs' : settings.value.separator))
const tabled = computed(() => settings.value.range)
const value = (event: Event): string => (event.target as HTMLSelectElement).value

function separate(chosen: string): void {
  emit('change', chosen === 'runs' ? { separator: ' ', runs: true } : { separator: chosen, runs: false })
}
</script>

<template>
  <div class="bar">
    <h2 class="title" :title="file.name">{{ file.name }}</h2>
    <template v-if="isText">
      <select aria-label="How entries are set apart" :value="settings.kind" data-test="kind" @change="emit('kind', value($event) as Kind)">
        <option value="delimited">separated</option>
        <option value="fixed">fixed columns</option>
      </select>
      <select v-if="settings.kind === 'delimited'" aria-label="Separator" :value="separator" data-test="separator" @change="separate(value($event))">
        <option v-for="(word, mark) in separators" :key="mark" :value="mark">{{ word }}</option>
        <option value="runs">runs of spaces</option>
      </select>
      <select aria-label="Encoding" :value="settings.encoding" data-test="encoding" @change="emit('change', { encoding: value($event) })">
        <option v-for="(word, code) in file.encodings" :key="code" :value="code">{{ word }}</option>
      </select>
    </template>
    <template v-if="settings.kind === 'workbook'">
      <select aria-label="Sheet" :value="settings.sheet" data-test="sheet" @change="emit('change', { sheet: value($event), range: '' })">
        <option v-for="sheet in file.sheets" :key="sheet" :value="sheet">{{ sheet }}</option>
      </select>
      <select v-if="file.tables.length" aria-label="Table on this sheet" :value="tabled" title="Several tables stand on this sheet, apart from each other" data-test="tables" @change="emit('change', { range: value($event) })">
        <option v-if="!file.tables.includes(tabled)" :value="tabled">{{ tabled || 'all cells' }}</option>
        <option v-for="(range, at) in file.tables" :key="range" :value="range">table {{ at + 1 }} of {{ file.tables.length }}: {{ range }}</option>
        <option v-if="tabled" value="">all cells</option>
      </select>
      <input
        aria-label="Range of cells" :value="settings.range" placeholder="all cells, or B3:H200" data-test="range"
        @change="emit('change', { range: value($event) })"
      />
    </template>
    <MoreSettings v-if="settings.kind !== 'parquet'" :settings="settings" @change="emit('change', $event)" />
    <span class="grow" />
    <span class="soft">{{ bytes(file.size) }} · {{ file.width }} columns</span>
    <v-btn data-test="another" @click="emit('another')">Another file</v-btn>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 10px;
  margin-bottom: 12px;
  font-size: 13px;
}

.title {
  margin-right: 8px;
  min-width: 60px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

select,
input {
  font: inherit;
  height: 31px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  color: var(--ink);
  padding: 0 8px;
}

select {
  min-width: 60px;
  max-width: 170px;
}

input {
  width: 170px;
}

.soft {
  white-space: nowrap;
}
</style>
