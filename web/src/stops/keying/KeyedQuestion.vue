<script setup lang="ts">
/** One question as it is asked: its wording, its answers with their keys; a battery as one grid. */
import { computed } from 'vue'

import { counted } from '@/study/shown'
import { type Keyed, keysOf, REASON_KEYS, type Variable } from './keyed'

const props = defineProps<{ keyed: Keyed; drawn: number }>()
const typing = defineModel<string>({ required: true })
const emit = defineEmits<{ typed: []; choose: [entry: string]; tick: [at: number]; go: [variable: string] }>()

const stop = computed(() => (void props.drawn, props.keyed.stop!))
const question = computed(() => stop.value.question)
const variable = computed(() => stop.value.variable)
const grid = computed(() => question.value.kind === 'grid' || question.value.kind === 'ranks')
const heads = computed(() => (grid.value ? question.value.variables[0]!.answers : []))
const wording = computed(() => question.value.wording || (grid.value || stop.value.ticks ? question.value.title : variable.value.question || variable.value.label || variable.value.name))
const kind = computed(() => {
  const many = counted(question.value.variables.length, 'item')
  return { one: variable.value.label === wording.value ? '' : variable.value.label, grid: [question.value.title === wording.value ? '' : question.value.title, `${many}, one scale`].filter(Boolean).join(' · '), ticks: `${counted(question.value.variables.length, 'thing')} to tick`, ranks: `${counted(question.value.variables.length, 'thing')} to rank, 1 for the first` }[question.value.kind]
})
const entry = (of: Variable): string => (void props.drawn, props.keyed.entries.get(of.id) ?? '')
const letters = Object.entries(REASON_KEYS)

/** The key of an answer: the letter of its reason where it is missing, and the first of that reason; else its code, or the number of its line. */
function keyOf(answer: Variable['answers'][number], of: Variable): string {
  const letter = letters.find(([, reason]) => reason === answer.reason || (reason === 'not applicable' && answer.reason === 'not asked'))?.[0]
  const first = of.answers.find((each) => each.reason === answer.reason) === answer
  const own = [...keysOf(of)].find(([, code]) => code === answer.code)?.[0] ?? answer.code
  return answer.reason && letter && first ? letter.toUpperCase() : own
}
</script>

<template>
  <section aria-live="polite" data-test="keyed-question">
    <h2 class="ask">{{ wording }}</h2>
    <p class="soft kind">{{ kind }} <span v-if="keyed.passed" data-test="passed">· skipped {{ counted(keyed.passed, 'question') }}</span></p>

    <table v-if="grid" class="grid">
      <thead>
        <tr><th /><th v-for="answer in heads" :key="answer.code" scope="col"><span class="word">{{ answer.label }}</span><kbd>{{ keyOf(answer, question.variables[0]!) }}</kbd></th></tr>
      </thead>
      <tbody>
        <tr v-for="each in question.variables" :key="each.id" :class="{ here: each.id === variable.id }" :aria-current="each.id === variable.id ? 'true' : undefined">
          <th scope="row" @click="emit('go', each.id)">{{ each.label || each.name }}<small class="mono">{{ each.name }}</small></th>
          <td v-for="answer in heads" :key="answer.code">
            <button
              class="dot" :class="{ on: entry(each) === answer.code, missing: answer.reason }" tabindex="-1" :aria-label="`${answer.label || answer.code}: ${each.label || each.name}`" :aria-pressed="entry(each) === answer.code"
              @click="emit('go', each.id); emit('choose', answer.code)"
            />
          </td>
        </tr>
      </tbody>
    </table>

    <ul v-else-if="stop.ticks" class="answers">
      <li v-for="(each, at) in question.variables" :key="each.id">
        <button class="answer" tabindex="-1" :aria-pressed="keyed.ticked.has(each.id)" @click="emit('tick', at)">
          <kbd>{{ at + 1 }}</kbd> <span class="box" :class="{ on: keyed.ticked.has(each.id) }" /> {{ each.label || each.name }} <small class="mono soft">{{ each.name }}</small>
        </button>
      </li>
    </ul>

    <template v-else-if="keyed.free">
      <input v-model="typing" class="text" :class="{ long: variable.use === 'open-ended' }" :aria-label="variable.name" spellcheck="false" autocomplete="off" data-test="keyed-text" @input="emit('typed')" />
      <p v-if="variable.answers.length" class="soft small"><span v-for="answer in variable.answers" :key="answer.code"><b class="mono">{{ answer.code }}</b> {{ answer.label }} &ensp;</span></p>
    </template>

    <ul v-else class="answers">
      <li v-for="answer in variable.answers" :key="answer.code">
        <button class="answer" :class="{ on: entry(variable) === answer.code }" tabindex="-1" :aria-pressed="entry(variable) === answer.code" @click="emit('choose', answer.code)">
          <kbd>{{ keyOf(answer, variable) }}</kbd> <span class="dot small" :class="{ on: entry(variable) === answer.code, missing: answer.reason }" /> {{ answer.label || answer.code }}
          <span v-if="variable.skips[answer.code]" class="soft"> → skips {{ counted(variable.skips[answer.code]!.length, 'variable') }}</span>
        </button>
      </li>
    </ul>
    <p v-if="keyed.begun" class="soft" data-test="begun"><b class="mono">{{ keyed.begun }}</b>… or <kbd>Enter</kbd></p>
  </section>
</template>

<style scoped>
.ask {
  font: 400 25px/1.3 var(--serif);
  color: var(--ink);
}

.kind {
  margin: 8px 0 18px;
}

.answers {
  list-style: none;
  margin: 0;
  padding: 0;
  max-width: 640px;
}

.answer {
  display: flex;
  width: 100%;
  align-items: center;
  gap: 12px;
  min-height: 40px;
  padding: 4px 10px;
  font-size: 15px;
  text-align: left;
  border-bottom: 1px solid var(--line);
}

.answer:hover,
.answer.on {
  background: var(--leaf-pale);
}

kbd {
  min-width: 26px;
  text-align: center;
  font-weight: 700;
}

.text {
  width: 280px;
  height: 42px;
  padding: 0 12px;
  font-size: 18px;
  border: 1px solid var(--edge);
  border-radius: 8px;
  background: var(--white);
}

.text.long {
  width: 100%;
  max-width: 800px;
}

.small {
  margin-top: 12px;
  font-size: 13px;
}

.grid {
  width: 100%;
  max-width: 860px;
  border-collapse: collapse;
}

.grid thead th:not(:first-child) {
  width: 84px;
}

.grid thead th {
  padding: 0 4px 8px;
  font-size: 12px;
  font-weight: 400;
  color: var(--soft);
  vertical-align: bottom;
}

.grid .word {
  display: block;
  margin-bottom: 4px;
}

.grid tbody tr {
  border-top: 1px solid var(--line2);
}

.grid tbody th {
  padding: 7px 14px;
  text-align: left;
  font-size: 15px;
  font-weight: 400;
}

.grid small {
  display: block;
  font-size: 12px;
  color: var(--soft);
}

.grid td {
  text-align: center;
}

.here {
  background: var(--leaf-pale);
  box-shadow: inset 4px 0 0 var(--leaf);
}

.dot {
  display: inline-block;
  width: 26px;
  height: 26px;
  border: 1px solid var(--edge);
  border-radius: 50%;
  background: var(--white);
}

.dot.small {
  width: 16px;
  height: 16px;
  margin: 0;
}

.dot.on {
  background: var(--leaf);
  border-color: var(--leaf);
}

.dot.on.missing {
  border-color: var(--straw-ink);
  background: repeating-linear-gradient(135deg, var(--straw) 0 3px, var(--straw-pale) 3px 6px);
}

.box {
  width: 18px;
  height: 18px;
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--white);
}

.box.on {
  background: var(--leaf);
  box-shadow: inset 0 0 0 3px var(--white);
}
</style>
