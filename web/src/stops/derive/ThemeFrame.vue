<script setup lang="ts">
/** The coding frame of open answers: themes with their key words, and the answers that are left, assigned one by one. */
import { ref } from 'vue'

import type { Schema } from '@/api/client'
import KeptInput from '@/parts/KeptInput.vue'
import { count } from '@/study/shown'
import type { Theme } from './sentence'

const props = defineProps<{ themes: Theme[]; variables: Schema['NewVariableModel'][]; left: string[] }>()
const emit = defineEmits<{ themes: [themes: Theme[]] }>()
const fresh = ref('')
const ticked = (at: number): number => props.variables[at]?.old_by_new?.new.find((each) => each.code === '1')?.count ?? 0
const changed = (at: number, by: Partial<Theme>): void => emit('themes', props.themes.map((each, number) => (number === at ? { ...each, ...by } : each)))
function words(at: number, text: string): void {
  const list = text.split(',').map((each) => each.trim()).filter(Boolean)
  changed(at, { words: list })
}
function assign(answer: string, event: Event): void {
  const at = Number((event.target as HTMLSelectElement).value)
  changed(at, { whole: [...props.themes[at]!.whole, answer] })
}
function add(): void {
  const label = fresh.value.trim()
  if (label) emit('themes', [...props.themes, { label, words: [label.toLowerCase()], whole: [] }])
  fresh.value = ''
}
</script>

<template>
  <div class="frame" data-test="themes">
    <table>
      <thead><tr><th scope="col">theme</th><th scope="col">key words (path* for what begins so)</th><th scope="col">by hand</th><th scope="col" class="right">answers</th><th /></tr></thead>
      <tbody>
        <tr v-for="(theme, at) in themes" :key="at">
          <td><KeptInput :value="theme.label" :keep="(label) => label !== '' && changed(at, { label })" :aria-label="`Theme ${at + 1}`" :data-test="`theme-${at}`" /></td>
          <td><KeptInput class="words" :value="theme.words.join(', ')" :keep="(text) => words(at, text)" :aria-label="`Key words of ${theme.label}`" :data-test="`words-${at}`" /></td>
          <td>{{ theme.whole.length || '' }}</td>
          <td class="right">{{ count(ticked(at)) }}</td>
          <td><button class="act" :aria-label="`Take ${theme.label} away`" @click="emit('themes', themes.filter((_, number) => number !== at))">take away</button></td>
        </tr>
      </tbody>
    </table>
    <form class="new" @submit.prevent="add"><input v-model="fresh" placeholder="Another theme" aria-label="Another theme" data-test="new-theme" /> <button class="act" type="submit">add</button></form>
    <h3>{{ left.length ? 'Answers that name none of them' : 'Every answer names one of them' }}</h3>
    <p v-for="answer in left" :key="answer" class="answer" data-test="left-answer">
      <span class="words">{{ answer }}</span>
      <select :aria-label="`Theme of: ${answer.slice(0, 60)}`" @change="assign(answer, $event)"><option value="">names…</option><option v-for="(theme, at) in themes" :key="at" :value="at">{{ theme.label }}</option></select>
    </p>
  </div>
</template>

<style scoped>
table {
  border-collapse: collapse;
  font-size: 13px;
  margin-top: 10px;
}

th,
td {
  text-align: left;
  font-weight: 400;
  padding: 3px 16px 3px 0;
  border-bottom: 1px solid var(--line);
}

.right {
  text-align: right;
}

input,
select {
  height: 28px;
  border: 1px solid var(--edge);
  border-radius: 5px;
  background: var(--white);
  padding: 0 8px;
  font-size: 13px;
}

input.words {
  width: 340px;
}

.new {
  margin: 10px 0 18px;
}

h3 {
  font-size: 13px;
  font-weight: 650;
  color: var(--soil);
  margin-bottom: 4px;
}

.answer {
  display: flex;
  gap: 14px;
  align-items: baseline;
  padding: 4px 0;
  border-bottom: 1px solid var(--line);
}

.answer .words {
  flex: 1;
  font: 14.5px/1.4 var(--serif);
}
</style>
