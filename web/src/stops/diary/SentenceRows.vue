<script setup lang="ts">
/** A sentence of several lines, such as bands: a row for each of them, and beside it what stood there before. */
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'

import { parted, together } from '@/stops/derive/sentence'

/** A line, and the one that stood in its place; none where it is new. */
interface Row { text: string; was: string | null }

const text = defineModel<string>({ required: true })
const props = defineProps<{ was: string | null; path: string }>()
const emit = defineEmits<{ whole: [] }>()
/** Old lines that are longer than this stand below the new ones. */
const LONG = 20
const before = props.was === null ? null : parted(props.was)
const first = parted(text.value)!
const head = ref(first.head)
const rows = ref(rowsOf(first.lines))
const fields = useTemplateRef<HTMLInputElement[]>('fields')
const gone = computed(() => (before?.lines ?? []).filter((line) => !rows.value.some((row) => row.was === line)))
const said = computed(() => together({ head: head.value, lines: rows.value.map((row) => row.text) }))

function rowsOf(lines: string[]): Row[] {
  const old = before?.lines ?? []
  return lines.map((line, at) => ({ text: line, was: lines.length === old.length ? old[at]! : old.includes(line) ? line : null }))
}
/** Lines are parted anew only where somebody else wrote: a quote that is not closed yet does not swallow what follows. */
watch(text, (now) => {
  const found = now === said.value ? null : parted(now)
  if (found) [head.value, rows.value] = [found.head, rowsOf(found.lines)]
})
watch(said, (now) => (text.value = now), { flush: 'sync' })
const typed = (event: Event): string => (event.target as HTMLInputElement).value
async function more(at: number): Promise<void> {
  rows.value = rows.value.toSpliced(at, 0, { text: '', was: null })
  await nextTick()
  fields.value?.[at]?.focus()
}
</script>

<template>
  <div class="sentence">
    <div class="line">
      <input class="mono boxed head" :value="head" :aria-label="`${path}, what it is made of`" :data-test="`head-${path}`" spellcheck="false" @input="head = typed($event)" />
      <del v-if="before && before.head !== head" class="before">{{ before.head }}</del>
    </div>
    <div v-for="(row, at) in rows" :key="at" class="line" :class="{ long: row.was !== row.text && (row.was ?? '').length > LONG }">
      <input ref="fields" class="mono boxed" :value="row.text" :aria-label="`${path}, line ${at + 1}`" :data-test="`line-${path}.${at + 1}`" spellcheck="false" @input="row.text = typed($event)" @keydown.enter.exact.prevent="more(at + 1)" />
      <span v-if="before" class="before" data-test="line-was"><del v-if="row.was !== null && row.was !== row.text">{{ row.was }}</del><span v-else class="soft">{{ row.was === null ? 'new' : 'unchanged' }}</span></span>
      <button class="off" :aria-label="`Take line ${at + 1} away`" :disabled="rows.length === 1" @click="rows = rows.toSpliced(at, 1)">×</button>
    </div>
    <div v-for="line in gone" :key="line" class="gone before"><del>{{ line }}</del></div>
    <p><button class="act" :data-test="`more-${path}`" @click="more(rows.length)">one more</button><button class="act" :data-test="`whole-${path}`" @click="emit('whole')">write it as one sentence</button></p>
  </div>
</template>

<style scoped>
.sentence {
  flex: 1;
  min-width: 0;
}

.line {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto 24px;
  align-items: center;
  gap: 2px 10px;
  margin-bottom: 4px;
}

.line input {
  grid-column: 1;
}

.line .head {
  border-color: transparent;
  background: none;
  padding-left: 0;
}

.before {
  font: 12.5px var(--mono);
}

.long .before {
  grid-area: 2 / 1;
  padding-left: 9px;
}

.gone {
  padding: 2px 0 2px 9px;
}

p {
  display: flex;
  gap: 16px;
}

.off {
  grid-column: 3;
  grid-row: 1;
  width: 24px;
  height: 24px;
  color: var(--soft);
}
</style>
