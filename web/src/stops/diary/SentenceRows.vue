<script setup lang="ts">
/** A sentence of several lines, such as bands: a row for each of them, and beside it what stood there before. */
import { nextTick, ref, useTemplateRef, watch } from 'vue'

import { parted, together } from '@/stops/derive/sentence'

const text = defineModel<string>({ required: true })
const props = defineProps<{ was: string | null; path: string }>()
const emit = defineEmits<{ whole: [] }>()
const said = ref(parted(text.value)!)
const before = props.was === null ? null : parted(props.was)
const fields = useTemplateRef<HTMLInputElement[]>('fields')

/** Lines are parted anew only where somebody else wrote: a quote that is not closed yet does not swallow what follows. */
watch(text, (now) => {
  const found = now === together(said.value) ? null : parted(now)
  if (found) said.value = found
})
function put(lines: string[], head = said.value.head): void {
  said.value = { head, lines }
  text.value = together(said.value)
}
const typed = (event: Event): string => (event.target as HTMLInputElement).value
async function more(at: number): Promise<void> {
  put(said.value.lines.toSpliced(at, 0, ''))
  await nextTick()
  fields.value?.[at]?.focus()
}
</script>

<template>
  <div class="sentence">
    <div class="line">
      <input class="mono head" :value="said.head" :aria-label="`${path}, what it is made of`" :data-test="`head-${path}`" spellcheck="false" @input="put(said.lines, typed($event))" />
      <del v-if="before && before.head !== said.head">{{ before.head }}</del>
    </div>
    <div v-for="(line, at) in said.lines" :key="at" class="line">
      <input ref="fields" class="mono" :value="line" :aria-label="`${path}, line ${at + 1}`" :data-test="`line-${path}.${at + 1}`" spellcheck="false" @input="put(said.lines.with(at, typed($event)))" @keydown.enter.exact.prevent="more(at + 1)" />
      <span v-if="before" class="before" data-test="line-was"><span v-if="before.lines[at] === line" class="soft">unchanged</span><del v-else>{{ before.lines[at] ?? 'nothing' }}</del></span>
      <button class="off" :aria-label="`Take line ${at + 1} away`" :disabled="said.lines.length === 1" @click="put(said.lines.toSpliced(at, 1))">×</button>
    </div>
    <div v-for="line in before?.lines.slice(said.lines.length) ?? []" :key="line" class="line gone"><del>{{ line }}</del></div>
    <p><button class="act" :data-test="`more-${path}`" @click="more(said.lines.length)">one more</button><button class="act" :data-test="`whole-${path}`" @click="emit('whole')">write it as one sentence</button></p>
  </div>
</template>

<style scoped>
.sentence {
  flex: 1;
  min-width: 0;
}

.line {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-bottom: 4px;
}

.line input {
  flex: 1 1 60%;
  min-width: 0;
  height: 30px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 8px;
  font-size: 13px;
}

.line .head {
  border-color: transparent;
  background: none;
  padding-left: 0;
}

.before,
.gone {
  flex: 1 1 40%;
  min-width: 0;
  font: 12.5px var(--mono);
  text-align: right;
}

p {
  display: flex;
  gap: 16px;
}

.off {
  width: 24px;
  height: 24px;
  color: var(--soft);
}
</style>
