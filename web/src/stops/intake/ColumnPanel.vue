<script setup lang="ts">
/** One column looked at closely, or many changed together: what it would be, its evidence, what may be missing. */
import { computed } from 'vue'

import PartSelect from '@/parts/PartSelect.vue'
import PlainField from '@/parts/PlainField.vue'
import ReasonMenu from '@/parts/ReasonMenu.vue'
import TagMarks from '@/parts/TagMarks.vue'
import { count, counted, LEVELS, REASONS, TYPES, USES } from '@/study/shown'
import type { Choice, Column, Intake } from './intake'

const props = defineProps<{ intake: Intake }>()

const chosen = computed<Column[]>(() => props.intake.columns.value.filter((each) => props.intake.selected.value.has(each.column)))
const one = computed(() => (chosen.value.length === 1 ? chosen.value[0] : undefined))
const missing = computed(() => one.value?.tag.missing ?? [])
const suspects = computed(() => one.value?.suspects.filter((each) => !missing.value.some((line) => line.code === each.entry)) ?? [])
const out = computed(() => chosen.value.every((each) => props.intake.choices[each.column]?.leave_out))

const PARTS: Record<'type' | 'level' | 'use', readonly string[]> = { type: TYPES, level: LEVELS, use: USES }

/** What all chosen columns have in common in a part. */
function common(part: keyof typeof PARTS): string {
  const values = new Set(chosen.value.map((each) => each.tag[part] as string))
  return values.size === 1 ? [...values][0]! : 'differs'
}

function setPart(part: keyof typeof PARTS, value: string): void {
  if (value !== 'differs') void choose({ [part]: value } as Choice)
}

function choose(parts: Choice): Promise<void> {
  return props.intake.choose(props.intake.selected.value, parts)
}

function markMissing(entries: string[], reason: (typeof REASONS)[number]): void {
  const lines = entries.map((code) => ({ code, reason, label: '' }))
  void choose({ missing: [...missing.value, ...lines] } as Choice)
}

const drop = (code: string | null | undefined): void => void choose({ missing: missing.value.filter((line) => line.code !== code) } as Choice)
</script>

<template>
  <aside class="side scroll" aria-label="Chosen columns" data-test="column-panel">
    <header>
      <h3 v-if="one" class="mono"><PlainField :key="one.column" :value="one.tag.name" label="Name" :keep="(name) => choose({ name })" /></h3>
      <h3 v-else>{{ counted(chosen.length, 'column') }}</h3>
      <button class="act" data-test="close-panel" @click="intake.select([])">close</button>
    </header>
    <template v-if="one">
      <PlainField :key="`label-${one.column}`" :value="one.tag.label ?? ''" label="Label" placeholder="Label" :keep="(label) => choose({ label })" />
      <PlainField :key="`question-${one.column}`" class="question" :value="one.tag.question ?? ''" label="Question wording" placeholder="Question wording" :keep="(question) => choose({ question })" />
      <p v-if="one.head && one.head !== one.tag.name" class="soft small">Headed “{{ one.head }}” in the file.</p>
    </template>
    <div class="parts">
      <label v-for="(words, part) in PARTS" :key="part">{{ part }}
        <PartSelect :model-value="common(part)" :options="one ? words : ['differs', ...words]" :label="`${part} of the chosen`" @update:model-value="setPart(part, $event)" />
      </label>
    </div>
    <v-btn data-test="leave-out" @click="choose({ leave_out: !out })">{{ out ? 'Take' : 'Leave' }} {{ one ? 'it' : 'them' }} {{ out ? '' : 'out' }}</v-btn>

    <template v-if="one">
      <TagMarks :key="`marks-${one.column}`" :tag="one.tag" @choose="choose" />
      <section>
        <h4>Evidence</h4>
        <p>{{ one.evidence }}</p>
        <p v-if="one.doubt" class="beet" data-test="doubt">{{ one.doubt }}.</p>
        <p class="soft">{{ count(one.fill.valid) }} valid · {{ count(one.fill.missing) }} coded missing · {{ count(one.fill.blank) }} blank · {{ count(one.fill.stray) }} stray</p>
        <p v-if="one.commonest.length" class="small soft">Most often:
          <span v-for="each in one.commonest" :key="each.entry" class="entry">{{ each.entry }} <i>×{{ count(each.count) }}</i></span>
        </p>
      </section>
      <section v-if="one.strays.length" data-test="column-strays">
        <h4 class="beet">{{ counted(one.fill.stray, 'entry', 'entries') }} would not be read</h4>
        <p v-for="each in one.strays" :key="each.entry" class="line">
          <span class="mono">{{ each.entry }}</span> ×{{ count(each.count) }}
          <span class="soft small">record {{ each.records.map(count).join(', ') }}{{ each.count > each.records.length ? ' …' : '' }}</span>
        </p>
        <p v-if="one.stray_kinds > one.strays.length" class="soft small">and {{ counted(one.stray_kinds - one.strays.length, 'other') }}</p>
      </section>
      <section v-if="suspects.length || missing.length">
        <h4>Missing</h4>
        <p v-for="line in missing" :key="line.code ?? ''" class="line">
          <span class="mono">{{ line.code }}</span> <span class="soft small">{{ line.reason }}</span>
          <span class="grow" /><button class="act" @click="drop(line.code)">take back</button>
        </p>
        <p v-for="each in suspects" :key="each.entry" class="line">
          <span class="mono">{{ each.entry }}</span> ×{{ count(each.count) }} <span class="soft small">{{ each.why }}</span>
          <span class="grow" /><ReasonMenu word="missing …" :label="`${each.entry} stands for missing`" @chosen="markMissing([each.entry], $event)" />
        </p>
        <ReasonMenu v-if="suspects.length > 1" word="all of these are missing …" label="All suspects stand for missing" @chosen="markMissing(suspects.map((each) => each.entry), $event)" />
      </section>
    </template>
    <p v-else class="soft small">What you set goes to all of them; what differs stays until it is set.</p>
  </aside>
</template>

<style scoped>
.side {
  width: 330px;
  flex: none;
  border-left: 1px solid var(--line);
  background: var(--sheet);
  padding: 14px 18px;
  display: flex;
  flex-direction: column;
  align-items: stretch;
  gap: 10px;
  font-size: 13px;
}

header {
  display: flex;
  align-items: flex-start;
  gap: 10px;
}

h3 {
  flex: 1;
  font-size: 17px;
  font-weight: 650;
}

h4 {
  font-size: 12px;
  font-weight: 650;
  margin-bottom: 2px;
}

.question {
  font-family: var(--serif);
}

.parts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
}

.parts label {
  color: var(--soft);
}

.v-btn {
  align-self: flex-start;
}

section {
  border-top: 1px solid var(--line);
  padding-top: 8px;
}

.small {
  font-size: 12px;
}

.entry {
  margin-right: 8px;
  color: var(--ink);
}

.line {
  display: flex;
  align-items: baseline;
  gap: 6px;
  min-height: 24px;
}
</style>
