<script setup lang="ts">
/** The entry that is being typed, over the chosen cell, and the answers that it may mean below. */
import { computed, onMounted, ref, useTemplateRef, watch } from 'vue'

import { type Answer, meantBy } from './answers'

const props = defineProps<{ answers: readonly Answer[]; above: boolean }>()
const text = defineModel<string>({ required: true })
const field = useTemplateRef<HTMLInputElement>('field')
const list = useTemplateRef<HTMLElement>('list')
onMounted(() => field.value?.focus())

/** Answers that are drawn at most; typing narrows the rest. */
const MOST = 60
/** Only what somebody has typed narrows them: an entry that is there already offers all. */
const typed = ref(false)
const offered = computed(() => (props.answers.length ? meantBy(props.answers, typed.value ? text.value : '').slice(0, MOST) : []))
/** The one that is pointed at with ↓ and ↑; nothing is taken for what was typed unless somebody points at it. */
const at = ref(-1)
watch(text, () => ([typed.value, at.value] = [true, -1]))

function point(by: number): void {
  const count = offered.value.length
  at.value = Math.min(Math.max(at.value + by, -1), count - 1)
  list.value?.children[at.value]?.scrollIntoView({ block: 'nearest' })
}

/** Takes the answer that is pointed at, if any; before the key means anything else. */
function onKey(event: KeyboardEvent): void {
  const by = { ArrowDown: 1, ArrowUp: -1 }[event.key]
  if (by && offered.value.length) {
    event.preventDefault()
    point(by)
  } else if ((event.key === 'Enter' || event.key === 'Tab') && offered.value[at.value]) text.value = offered.value[at.value]!.code
}

const emit = defineEmits<{ take: [] }>()
function take(answer: Answer): void {
  text.value = answer.code
  emit('take')
}
</script>

<template>
  <div class="typing">
    <input
      ref="field" v-model="text" class="typed" aria-label="Entry" spellcheck="false" autocomplete="off" data-test="typed" role="combobox"
      :aria-expanded="offered.length > 0" aria-controls="answers" :aria-activedescendant="at >= 0 ? `answer-${at}` : undefined" @keydown="onKey"
    />
    <ul v-if="offered.length" id="answers" ref="list" class="answers scroll" :class="{ above }" role="listbox" aria-label="Answers" data-test="answers">
      <li
        v-for="(answer, index) in offered" :id="`answer-${index}`" :key="answer.code" role="option" :aria-selected="index === at"
        :class="{ on: index === at, missing: answer.missing }" @pointerdown.prevent="take(answer)"
      >
        <b class="mono">{{ answer.code }}</b> {{ answer.label }}
      </li>
    </ul>
  </div>
</template>

<style scoped>
.typing {
  position: absolute;
  top: 0;
  left: 0;
  z-index: 4;
  height: 100%;
}

.typed {
  width: 100%;
  height: 100%;
  padding: 0 8px;
  font-size: 13px;
  background: var(--white);
  box-shadow: inset 0 0 0 2px var(--leaf);
}

.typed:focus-visible {
  outline: none;
}

.typing.frozen {
  position: sticky;
  flex: none;
}

.answers {
  position: absolute;
  top: 100%;
  left: 0;
  min-width: 100%;
  max-width: 320px;
  max-height: 232px;
  border: 1px solid var(--line2);
  border-radius: 0 0 8px 8px;
  background: var(--white);
  box-shadow: 0 6px 18px rgb(0 0 0 / 14%);
  list-style: none;
  margin: 0;
  padding: 0;
}

.answers.above {
  top: auto;
  bottom: 100%;
  border-radius: 8px 8px 0 0;
}

li {
  padding: 4px 10px;
  font-size: 13px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

li b {
  display: inline-block;
  min-width: 26px;
}

li.missing {
  color: var(--straw-ink);
}

li.on {
  background: var(--leaf-pale);
  box-shadow: inset 3px 0 0 var(--leaf);
}
</style>
