<script setup lang="ts">
/** A formula or a sentence as it is typed: what is wrong is marked under its characters, names and words are offered. */
import { computed, nextTick, ref, useTemplateRef } from 'vue'

import { api, got } from '@/api/client'
import { useAsked } from '@/study/asked'
import { useStudy } from '@/study/store'

const MOST = 7
/** Functions with what they give; and words: a variable that is called like one of them stands in backquotes. */
const vocabulary = useAsked('formula-words', () => null, () => got(api.GET('/api/library/formula-words')))

const text = defineModel<string>({ required: true })
const props = defineProps<{
  label: string
  problem: { first: number; end: number; suggestion?: string | null } | null
  said: string
  words?: string[]
}>()
const study = useStudy()
const area = useTemplateRef<HTMLTextAreaElement>('area')
const caret = ref(0)
const marked = computed(() => {
  if (!props.problem) return null
  const first = Math.min(props.problem.first, text.value.length)
  const end = Math.max(Math.min(props.problem.end, text.value.length), first)
  return { before: text.value.slice(0, first), wrong: text.value.slice(first, end) || ' ', after: text.value.slice(end) }
})

/** The word before the caret, and names and words that begin or go on so. */
const begun = computed(() => /[^\W\d]\w*$/u.exec(text.value.slice(0, caret.value))?.[0] ?? '')
const offered = computed(() => {
  const word = begun.value.toLowerCase()
  if (!word) return []
  const { functions, words } = vocabulary.value ?? { functions: {}, words: [] }
  const spelled = (name: string): string => (words.includes(name.toLowerCase()) ? `\`${name}\`` : name)
  const names = study.variables.map((each) => ({ text: spelled(each.name), detail: each.label }))
  const others = [...words.filter((each) => !Object.keys(functions).some((known) => `${known} `.startsWith(`${each} `))), ...(props.words ?? [])].map((text) => ({ text, detail: '' }))
  const all = [...names, ...Object.entries(functions).map(([text, detail]) => ({ text, detail })), ...others]
  const begins = all.filter((each) => each.text.toLowerCase().startsWith(word))
  const holds = names.filter((each) => !each.text.toLowerCase().startsWith(word) && `${each.text} ${each.detail}`.toLowerCase().includes(word))
  const found = [...begins, ...holds].filter((each) => each.text.toLowerCase() !== word)
  return found.slice(0, MOST)
})

function note(): void {
  caret.value = area.value?.selectionStart ?? text.value.length
}
async function put(first: number, end: number, by: string): Promise<void> {
  text.value = text.value.slice(0, first) + by + text.value.slice(end)
  await nextTick()
  area.value?.focus()
  area.value?.setSelectionRange(first + by.length, first + by.length)
  note()
}
const complete = (word: string): Promise<void> => put(caret.value - begun.value.length, caret.value, word)
const mend = (): void => {
  const wrong = props.problem
  if (wrong?.suggestion) void put(wrong.first, wrong.end, wrong.suggestion)
}
function onTab(event: KeyboardEvent): void {
  if (event.shiftKey || !offered.value.length) return
  event.preventDefault()
  void complete(offered.value[0]!.text)
}
</script>

<template>
  <div class="formula">
    <div class="field" :class="{ wrong: problem }">
      <pre aria-hidden="true"><template v-if="marked">{{ marked.before }}<mark>{{ marked.wrong }}</mark>{{ marked.after }}</template><template v-else>{{ text }}</template>&#8203;</pre>
      <textarea
        ref="area" v-model="text" class="mono" :aria-label="label" :aria-invalid="!!problem" spellcheck="false" autocapitalize="off" rows="1" data-test="formula"
        @input="note" @keyup="note" @click="note" @keydown.tab="onTab"
      />
    </div>
    <p class="below" role="status">
      <span :class="problem ? 'beet' : 'soft'" data-test="formula-said">{{ said }}</span>
      <button v-if="problem?.suggestion" class="act" data-test="formula-mend" @click="mend">write {{ problem.suggestion }}</button>
    </p>
    <p v-if="offered.length" class="chips" aria-label="Completions">
      <button v-for="(each, at) in offered" :key="each.text" type="button" class="mono" :title="each.detail" data-test="formula-offer" @mousedown.prevent="complete(each.text)">{{ each.text }}<template v-if="!at"> <kbd>Tab</kbd></template></button>
      <span v-if="offered[0]!.detail" class="soft cut" data-test="formula-detail">{{ offered[0]!.detail }}</span>
    </p>
  </div>
</template>

<style scoped>
.field {
  position: relative;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
}

.field:focus-within {
  outline: 2px solid var(--leaf);
  outline-offset: 1px;
}

pre,
textarea {
  font: 14px/1.6 var(--mono);
  padding: 8px 12px;
  margin: 0;
  width: 100%;
  min-height: 40px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  tab-size: 2;
}

pre {
  color: transparent;
  pointer-events: none;
}

textarea {
  position: absolute;
  inset: 0;
  height: 100%;
  resize: none;
  overflow: hidden;
  outline: none;
}

mark {
  color: transparent;
  background: var(--beet-pale);
  text-decoration: underline wavy var(--beet) 1.5px;
  text-underline-offset: 4px;
}

.below {
  min-height: 20px;
  font-size: 13px;
  margin-top: 2px;
}

.below .act {
  margin-left: 10px;
}
</style>
