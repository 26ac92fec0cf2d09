<script setup lang="ts">
import { ref } from 'vue'

defineProps<{ busy: boolean }>()
const emit = defineEmits<{ file: [file: File] }>()
const over = ref(false)
const picker = ref<HTMLInputElement>()

function take(files: FileList | null | undefined): void {
  over.value = false
  const file = files?.[0]
  if (file) emit('file', file)
}
</script>

<template>
  <div
    class="drop" :class="{ over }" data-test="drop"
    @dragover.prevent="over = true" @dragleave="over = false" @drop.prevent="take($event.dataTransfer?.files)"
  >
    <svg viewBox="0 0 88 60" width="132" height="90" aria-hidden="true">
      <path d="M4 30 24 8h60v44H24Z" fill="none" stroke="currentColor" stroke-width="2.5" stroke-dasharray="6 5" />
      <circle cx="26" cy="30" r="4" fill="none" stroke="currentColor" stroke-width="2.5" />
      <path d="M54 18v20m-8-8 8 8 8-8" fill="none" stroke="currentColor" stroke-width="2.5" />
    </svg>
    <h2>Drop a file here</h2>
    <p class="soft">Delimited text (.csv, .tsv, .txt) or a workbook (.xlsx, .ods). You look at it first; nothing is changed.</p>
    <v-btn variant="flat" color="primary" :loading="busy" @click="picker?.click()">Choose a file</v-btn>
    <input
      ref="picker" type="file" class="picker" tabindex="-1" aria-label="File to bring in" data-test="file"
      accept=".csv,.tsv,.tab,.txt,.xlsx,.xlsm,.ods" @change="take(($event.target as HTMLInputElement).files)"
    />
  </div>
</template>

<style scoped>
.drop {
  position: absolute;
  inset: 24px;
  border-radius: 12px;
  border: 2px dashed var(--line2);
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  gap: 10px;
  color: var(--edge);
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
