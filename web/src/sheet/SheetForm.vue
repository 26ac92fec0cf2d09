<script setup lang="ts">
/** Documents are kept here: pasted, dropped or chosen as a file; and let go. */
import { computed, onMounted, ref, shallowRef, watch } from 'vue'

import type { Schema } from '@/api/client'
import WorkBar from '@/parts/WorkBar.vue'
import { counted } from '@/study/shown'
import { DOCUMENT_ENDINGS, useSheets } from './sheets'
import TableColumns from './TableColumns.vue'

const props = defineProps<{ focused: boolean }>()
const emit = defineEmits<{ done: [] }>()
const sheets = useSheets()
const text = ref('')
const name = ref('')
const reading = ref(false)
const over = ref(false)
const picker = ref<HTMLInputElement>()
const field = ref<HTMLTextAreaElement>()
const lines = computed(() => (text.value.trim() ? text.value.trim().split('\n').length : 0))

/** The file that the text came from, and the table in it, whose columns may be told anew. */
const file = shallowRef<File | null>(null)
const table = shallowRef<Schema['TableSeen'] | null>(null)

async function take(files: FileList | null | undefined, dropped = false): Promise<void> {
  over.value = false
  if (!files?.[0]) return
  file.value = files[0]
  await read()
  if (dropped && lines.value && !table.value) await keep()
  if (picker.value) picker.value.value = ''
}

async function read(sheet = '', columns: Schema['TableSeen']['columns'] = []): Promise<void> {
  if (!file.value) return
  reading.value = true
  const found = await sheets.read(file.value, sheet, columns)
  reading.value = false
  if (!found) return
  name.value = found.name
  text.value = found.text
  table.value = found.table
}

async function keep(): Promise<void> {
  if (!lines.value || !(await sheets.keep(name.value.trim() || 'Pasted text', text.value))) return
  text.value = name.value = ''
  file.value = table.value = null
  emit('done')
}

/** The first page of a document is there to be looked at while the others are read. */
watch(() => sheets.reading?.result.begin, (begin) => begin && (text.value = String(begin)))

onMounted(() => props.focused && field.value?.focus())
</script>

<template>
  <div class="form scroll" @keydown.esc.stop="sheets.sheets.length && emit('done')">
    <ul v-if="sheets.sheets.length" aria-label="Documents beside the study">
      <li v-for="each in sheets.sheets" :key="each.id">
        <button class="act" @click="((sheets.id = each.id), emit('done'))">{{ each.name }}</button>
        <span class="soft">{{ counted(each.lines, 'line') }}</span>
        <button class="act" :aria-label="`Let ${each.name} go`" title="What was taken from it stays; undo brings it back" @click="sheets.letGo(each.id)">let go</button>
      </li>
    </ul>
    <p>{{ sheets.sheets.length ? 'One more document:' : 'The questionnaire or codebook, as people write it, beside the tags: its lines light up, and codes, labels and limits are taken from it instead of typed.' }}</p>
    <div class="drop" :class="{ over }" @dragover.prevent="over = true" @dragleave="over = false" @drop.prevent="take($event.dataTransfer?.files, true)">
      <textarea
        ref="field" v-model="text" placeholder="Paste it here, or drop a file" aria-label="Text of the document" spellcheck="false" data-test="sheet-text"
        @keydown.ctrl.enter.prevent="keep"
      />
    </div>
    <WorkBar v-if="sheets.reading" :job="sheets.reading" @cancel="sheets.stopReading" />
    <TableColumns v-if="table" :table="table" @read="read" />
    <label>Called <input v-model="name" placeholder="Pasted text" data-test="sheet-name" @keydown.enter="keep" /></label>
    <div class="do">
      <v-btn :loading="reading" @click="picker?.click()">Choose a file</v-btn>
      <v-btn variant="flat" color="primary" :disabled="!lines || !!sheets.reading" title="Ctrl+Enter" data-test="keep-sheet" @click="keep">Keep {{ lines ? counted(lines, 'line') : 'it' }}</v-btn>
    </div>
    <input
      ref="picker" type="file" class="picker" tabindex="-1" aria-label="Document to keep beside the study" data-test="sheet-file" :accept="DOCUMENT_ENDINGS"
      @change="take(($event.target as HTMLInputElement).files)"
    />
    <p class="soft">Text, a document (.docx, .odt, .rtf, .pdf), a web page or form, a table or workbook of variables, or metadata (Data Package, CSVW, DDI-Codebook, Triple-S). Nothing is applied by itself.</p>
  </div>
</template>

<style scoped>
.form {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding: 12px 14px;
  font-size: 13px;
  position: relative;
}

ul {
  margin: 0;
  padding: 0 0 8px;
  list-style: none;
  border-bottom: 1px solid var(--line);
}

li {
  display: flex;
  gap: 8px;
  align-items: baseline;
}

li .act:first-child {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  text-align: left;
}

.form :deep(.work) {
  flex-wrap: wrap;
  gap: 4px 12px;
}

.form :deep(.doing) {
  white-space: normal;
  flex-basis: 100%;
}

.drop {
  flex: 1;
  min-height: 180px;
  display: flex;
}

textarea,
label input {
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 8px 10px;
}

textarea {
  flex: 1;
  resize: none;
  font: 400 13.5px/20px var(--serif);
}

textarea::placeholder,
input::placeholder {
  color: var(--soft);
  opacity: 1;
}

.over textarea {
  border-color: var(--leaf);
  background: var(--leaf-pale);
}

label {
  display: flex;
  gap: 8px;
  align-items: center;
}

label input {
  flex: 1;
  min-width: 0;
  padding: 4px 8px;
}

.do {
  display: flex;
  justify-content: space-between;
}

.picker {
  position: absolute;
  bottom: 0;
  width: 1px;
  height: 1px;
  opacity: 0;
}
</style>
