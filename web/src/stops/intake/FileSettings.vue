<script setup lang="ts">
import { computed } from 'vue'

import { bytes } from '@/study/shown'
import { ENCODINGS, type FileSeen, SEPARATORS, type Settings } from './intake'

const props = defineProps<{ file: FileSeen }>()
const emit = defineEmits<{ change: [change: Partial<Settings>]; another: [] }>()

const separators = computed(() => ({ ...SEPARATORS, ...(props.file.settings.separator in SEPARATORS ? {} : { [props.file.settings.separator]: props.file.settings.separator }) }))
const value = (event: Event): string => (event.target as HTMLSelectElement).value
</script>

<template>
  <div class="bar">
    <h2 class="title">{{ file.name }}</h2>
    <template v-if="file.settings.kind === 'delimited'">
      <select aria-label="Separator" :value="file.settings.separator" data-test="separator" @change="emit('change', { separator: value($event) })">
        <option v-for="(word, mark) in separators" :key="mark" :value="mark">{{ word }}</option>
      </select>
      <select aria-label="Encoding" :value="file.settings.encoding" @change="emit('change', { encoding: value($event) })">
        <option v-for="(word, code) in ENCODINGS" :key="code" :value="code">{{ word }}</option>
      </select>
    </template>
    <select v-else aria-label="Sheet" :value="file.settings.sheet" data-test="sheet" @change="emit('change', { sheet: value($event) })">
      <option v-for="sheet in file.sheets" :key="sheet" :value="sheet">{{ sheet }}</option>
    </select>
    <select
      aria-label="Names" :value="file.settings.names_row ? 'first' : 'none'" data-test="names"
      @change="emit('change', { names_row: value($event) === 'first' ? 1 : null })"
    >
      <option value="first">names in the first row</option>
      <option value="none">no names in the file</option>
    </select>
    <span class="grow" />
    <span class="soft">{{ bytes(file.size) }} · {{ file.width }} columns</span>
    <v-btn @click="emit('another')">Another file</v-btn>
  </div>
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-bottom: 12px;
  font-size: 13px;
}

.title {
  margin-right: 8px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

select {
  font: inherit;
  height: 31px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  color: var(--ink);
  padding: 0 8px;
}

.soft {
  white-space: nowrap;
}
</style>
