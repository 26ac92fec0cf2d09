<script setup lang="ts">
/** New code lines, typed as one text or pasted as several; and whether the list is complete. */
import { computed, ref } from 'vue'

import type { TableRow, CodebookPage } from '@/api/client'
import { leave } from '@/frame/focus'
import { counted } from '@/study/shown'
import ReasonMenu from '@/parts/ReasonMenu.vue'
import type { Page } from './page'

const props = defineProps<{ page: CodebookPage; actions: Page; loose: TableRow[] }>()

const emit = defineEmits<{ acceptAll: [rows: TableRow[]] }>()
const strays = computed(() => props.loose.filter((row) => row.reading === 'stray'))
const text = ref('')
const complete = computed(() => props.page.tag.complete ?? false)
const unlisted = computed(() => props.loose.filter((row) => !row.unreadable).reduce((sum, row) => sum + row.count, 0))
const listable = computed(() => props.loose.filter((row) => !row.unreadable && (row.reading === 'valid' || complete.value)))

/** The field is free for the next line at once; what was refused comes back unless something else is typed. */
async function add(): Promise<void> {
  const typed = text.value
  if (!typed.trim()) return
  text.value = ''
  if (!(await props.actions.listText(typed)) && !text.value) text.value = typed
}

function pasted(event: ClipboardEvent): void {
  const block = event.clipboardData?.getData('text') ?? ''
  if (!block.trim().includes('\n')) return
  event.preventDefault()
  text.value = block
  void add()
}
</script>

<template>
  <div v-if="page.table.coded || page.codes.length" class="add">
    <input
      v-model="text" aria-label="Add a code line" placeholder="Add a line: 4 Holds two plots   or paste several" spellcheck="false" data-test="add-line"
      @keydown.enter.prevent="add" @paste="pasted" @keydown.esc.prevent.stop="((text = ''), leave())"
    />
  </div>
  <div v-if="page.table.coded || page.codes.length || loose.length" class="list">
    <label v-if="page.codes.length" class="complete">
      <input type="checkbox" :checked="complete" data-test="complete" @change="actions.define({ complete: !complete })" />
      The list is complete: {{ complete ? (unlisted ? `${counted(unlisted, 'entry', 'entries')} beyond it ${unlisted === 1 ? 'is a stray' : 'are strays'}` : 'other codes are strays') : unlisted ? `would make ${counted(unlisted, 'stray')}` : 'other codes would be strays' }}
    </label>
    <span class="grow" />
    <ReasonMenu v-if="loose.length > 1 && loose.length <= 40" :word="`all ${loose.length} missing…`" label="Set all that is not listed aside as missing" @chosen="actions.markAll(loose, $event)" />
    <button v-if="strays.length > 1 && page.ids.length === 1" class="act" data-test="keep-all" @click="emit('acceptAll', strays)">keep all {{ strays.length }} strays as is…</button>
    <button
      v-if="listable.length && listable.length <= 40" class="act" data-test="list-all"
      @click="actions.list(listable.map((row) => ({ row, label: '' })))"
    >{{ listable.length === 1 ? 'List the one code that occurs' : `List all ${listable.length} codes that occur` }}</button>
  </div>
</template>

<style scoped>
.add input {
  width: 100%;
  height: 33px;
  margin-top: 8px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  padding: 0 12px;
  background: var(--white);
  font-size: 13px;
}

.add input::placeholder {
  color: var(--soft);
  opacity: 1;
}

.list {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 2px 16px;
  margin-top: 8px;
  font-size: 13px;
}

.complete {
  display: flex;
  gap: 7px;
  align-items: center;
  min-height: 24px;
}

.complete input {
  width: 15px;
  height: 15px;
  accent-color: var(--leaf);
}
</style>
