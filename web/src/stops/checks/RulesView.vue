<script setup lang="ts">
/** The rules that every record of the study keeps to: written, changed, taken from the library and kept in it. */
import { computed, ref } from 'vue'

import { type AnyStep, api, got, newId, type Schema } from '@/api/client'
import FormulaField from '@/parts/FormulaField.vue'
import { useAsked } from '@/study/asked'
import { attempt, say } from '@/study/notices'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'

type Rule = Schema['RuleModel']
type Kept = Schema['LibraryRule']
const study = useStudy()
const rules = useAsked(
  'rules',
  () => [study.id, study.stamp({ tags: 'all', entries: 'all', shelves: ['rule', 'list'], order: true, records: true })] as const,
  ([id]) => got(api.GET('/api/studies/{study_id}/rules', { params: { path: { study_id: id } } })),
)
const libraryAsked = ref(0)
const library = useAsked('rule library', () => libraryAsked.value, () => got(api.GET('/api/library/rules')))
const others = computed(() => (library.value ?? []).filter((each) => !(rules.value ?? []).some((rule) => rule.title.toLowerCase() === each.title.toLowerCase())))

/** What is being written: the rule that it changes, or a new one. */
const editing = ref<string | null>(null)
const title = ref('')
const text = ref('')
const severity = ref<Rule['severity']>('error')
const note = ref('')
const look = ref<Schema['FormulaLook'] | null>(null)
const possible = computed(() => !!look.value?.formula && look.value.kind === 'truth')

function write(rule?: Rule): void {
  editing.value = rule?.id ?? newId()
  title.value = rule?.title ?? ''
  text.value = rule?.text ?? ''
  severity.value = rule?.severity ?? 'error'
  note.value = rule?.note ?? ''
  look.value = null
}
async function keep(): Promise<void> {
  if (!possible.value || !editing.value) return
  const says = { title: title.value.trim() || text.value.trim().slice(0, 200), holds: look.value!.formula!, severity: severity.value, note: note.value }
  const outcome = await study.take({ do: 'keep rule', format: 1, rule: editing.value, says } as AnyStep)
  if (!outcome) return
  say(outcome.sentence)
  editing.value = null
}
async function remove(rule: Rule): Promise<void> {
  const outcome = await study.take({ do: 'remove rules', format: 1, rules: [rule.id] } as AnyStep)
  if (outcome) say(outcome.sentence)
}
async function intoLibrary({ title: named, text: condition, severity: how, note: why }: Rule): Promise<void> {
  const kept = await attempt(() => got(api.PUT('/api/library/rules', { body: { title: named, text: condition, severity: how, note: why } })))
  if (kept) say(`“${named}” is in the library now: other studies can take it from there.`)
  libraryAsked.value++
}
async function fromLibrary(kept: Kept): Promise<void> {
  const found = await attempt(() => got(api.POST('/api/studies/{study_id}/formula', { params: { path: { study_id: study.id } }, body: { text: kept.text } })))
  if (!found) return
  if (!found.formula) {
    say(`“${kept.title}” cannot be held here: ${found.problem?.what ?? ''}`)
    return
  }
  const says = { title: kept.title, holds: found.formula, severity: kept.severity ?? 'error', note: kept.note ?? '' }
  const outcome = await study.take({ do: 'keep rule', format: 1, rule: newId(), says } as AnyStep)
  if (outcome) say(outcome.sentence)
}
async function outOfLibrary(kept: Kept): Promise<void> {
  await attempt(() => got(api.DELETE('/api/library/rules/{title}', { params: { path: { title: kept.title } } })))
  libraryAsked.value++
}
const inLibrary = (rule: Rule): boolean => (library.value ?? []).some((each) => each.title.toLowerCase() === rule.title.toLowerCase() && each.text === rule.text)
</script>

<template>
  <div class="rules" data-test="rules">
    <form v-if="editing" class="panel editor" data-test="rule-editor" @submit.prevent="keep" @keydown.ctrl.enter.prevent="keep" @keydown.esc="editing = null">
      <FormulaField v-model="text" label="What every record keeps to" condition @look="look = $event" />
      <div class="line">
        <input v-model="title" class="wide" placeholder="Title, such as: Waiting list has no plot" aria-label="Title" maxlength="200" data-test="rule-title" />
        <select v-model="severity" aria-label="How severe it is when one does not" data-test="rule-severity"><option value="error">an error</option><option value="warning">a warning</option><option value="note">worth knowing</option></select>
      </div>
      <div class="line">
        <input v-model="note" class="wide" placeholder="Why it holds" aria-label="Why it holds" maxlength="2000" data-test="rule-note" />
        <v-btn @click="editing = null">Leave it</v-btn>
        <v-btn type="submit" variant="flat" color="primary" :disabled="!possible" data-test="keep-rule">Keep the rule &nbsp;<kbd>Ctrl ↵</kbd></v-btn>
      </div>
    </form>
    <div v-else class="line"><v-btn variant="flat" color="primary" data-test="write-rule" @click="write()">Write a rule</v-btn><span class="soft">if tenure = 3 then plot_size is blank · hours &lt;= 80 · share_1 + share_2 = 100</span><span class="grow" /><a v-if="rules?.length" class="act" :href="`/api/studies/${study.id}/rules-text`" download="rules.txt">all of them as text</a></div>
    <section v-if="rules?.length" class="panel" aria-label="Rules">
      <div v-for="rule in rules" :key="rule.id" class="rule" data-test="rule">
        <div class="words">
          <b>{{ rule.title }}</b> <span class="soft">{{ rule.severity }}</span>
          <p class="mono text">{{ rule.text }}</p>
          <p v-if="rule.note" class="soft">{{ rule.note }}</p>
          <p v-if="rule.problem" class="beet">Cannot be held any more: {{ rule.problem.what }} {{ rule.problem.remedy }}</p>
        </div>
        <span v-if="rule.held" class="held" data-test="rule-held"><b :class="{ beet: rule.held.broken }">{{ rule.held.broken ? `${counted(rule.held.broken, 'record breaks', 'records break')} it` : 'kept by all' }}</b><span class="soft">{{ count(rule.held.met) }} keep to it{{ rule.held.unknown ? `, ${count(rule.held.unknown)} cannot tell` : '' }}</span></span>
        <span class="ways">
          <button class="act" data-test="change-rule" @click="write(rule)">change…</button>
          <button v-if="!inLibrary(rule)" class="act" data-test="into-library" @click="intoLibrary(rule)">into the library</button>
          <button class="act" data-test="remove-rule" @click="remove(rule)">take away</button>
        </span>
      </div>
    </section>
    <div v-else-if="rules && !editing" class="empty" data-test="no-rules">
      <h2>No rule yet</h2>
      <p>A rule is a condition that every record keeps to, written as one reads it aloud. Records that break it are found, and those of which it cannot be told are not blamed.</p>
    </div>
    <section v-if="others.length" class="panel" aria-label="Library">
      <h3>In the library, kept across studies</h3>
      <div v-for="kept in others" :key="kept.title" class="rule" data-test="library-rule">
        <div class="words"><b>{{ kept.title }}</b> <span class="soft">{{ kept.severity }}</span><p class="mono text">{{ kept.text }}</p></div>
        <span class="ways"><button class="act" data-test="from-library" @click="fromLibrary(kept)">hold to it here</button><button class="act" @click="outOfLibrary(kept)">out of the library</button></span>
      </div>
    </section>
  </div>
</template>

<style scoped>
.rules {
  max-width: 1080px;
}

.panel {
  margin-bottom: 14px;
}

.editor {
  padding: 14px 16px;
}

.line {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-bottom: 12px;
  font-size: 13px;
}

.editor .line {
  margin: 8px 0 0;
}

.line input,
select {
  height: 31px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 10px;
  font-size: 13px;
}

.wide {
  flex: 1;
}

h3 {
  font-size: 13px;
  font-weight: 650;
  color: var(--soil);
  padding: 12px 16px 0;
}

.rule {
  display: flex;
  gap: 18px;
  align-items: baseline;
  padding: 10px 16px;
  font-size: 13.5px;
}

.rule + .rule {
  border-top: 1px solid var(--line);
}

.words {
  flex: 1;
  min-width: 0;
}

.text {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  color: var(--soil);
  margin-top: 2px;
}

.held {
  display: flex;
  flex-direction: column;
  text-align: right;
  font-size: 13px;
}

.ways {
  display: flex;
  gap: 14px;
}
</style>
