<script setup lang="ts">
/** Where a file is dropped, chosen, or a block pasted. */
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'

import { DATA_ENDINGS } from './dropped'

defineProps<{ busy: boolean; title: string; compact?: boolean }>()
const emit = defineEmits<{ file: [file: File] }>()
const over = ref(false)
const picker = ref<HTMLInputElement>()

function take(files: FileList | null | undefined): void {
  over.value = false
  const file = files?.[0]
  if (file) emit('file', file)
  if (picker.value) picker.value.value = ''
}

/** A block copied from a spreadsheet is text with tabs; pasted into a field it belongs to the field. */
useEventListener(window, 'paste', (event) => {
  const target = event.target as HTMLElement
  if (target.closest('input, textarea, [contenteditable]')) return
  if (event.clipboardData?.files.length) {
    take(event.clipboardData.files)
    return
  }
  const text = event.clipboardData?.getData('text/plain') ?? ''
  if (text.trim()) emit('file', new File([text], 'pasted block.tsv', { type: 'text/tab-separated-values' }))
})
</script>

<template>
  <div
    class="drop" :class="{ over, compact }" data-test="drop"
    @dragover.prevent="over = true" @dragleave="over = false" @drop.prevent="take($event.dataTransfer?.files)"
  >
    <svg viewBox="0 0 88 60" :width="compact ? 66 : 132" :height="compact ? 45 : 90" aria-hidden="true">
      <path d="M4 30 24 8h60v44H24Z" fill="none" stroke="currentColor" stroke-width="2.5" stroke-dasharray="6 5" />
      <circle cx="26" cy="30" r="4" fill="none" stroke="currentColor" stroke-width="2.5" />
      <path d="M54 18v20m-8-8 8 8 8-8" fill="none" stroke="currentColor" stroke-width="2.5" />
    </svg>
    <div class="words">
      <h2>{{ title }}</h2>
      <p class="soft">
        Text in columns (.csv, .tsv, .txt, also .gz), a workbook (.xlsx, .ods, .xls), Parquet, or a block pasted from a
        spreadsheet (<kbd>Ctrl V</kbd>). You look at it first.
      </p>
    </div>
    <v-btn variant="flat" color="primary" :loading="busy" @click="picker?.click()">Choose a file</v-btn>
    <input
      ref="picker" type="file" class="picker" tabindex="-1" aria-label="File to bring in" data-test="file"
      :accept="DATA_ENDINGS" @change="take(($event.target as HTMLInputElement).files)"
    />
  </div>
</template>

<style scoped>
.drop {
  position: relative;
  border-radius: 12px;
  border: 2px dashed var(--line2);
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  gap: 10px;
  padding: 20px;
  color: var(--edge);
}

.words {
  max-width: 430px;
  text-align: center;
}

.compact {
  flex-direction: row;
  justify-content: flex-start;
  gap: 18px;
}

.compact .words {
  flex: 1;
  max-width: none;
  text-align: left;
}

.over {
  border-color: var(--leaf);
  background: var(--leaf-pale);
  color: var(--leaf);
}

h2 {
  font-size: 20px;
  font-weight: 650;
  color: var(--ink);
}

.compact h2 {
  font-size: 16px;
}

.v-btn {
  margin-top: 8px;
}

.picker {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
</style>
