<script setup lang="ts">
/** Where lines were understood otherwise than they are meant: one click says so, and the document is read again. */
import { computed, nextTick, ref, watch } from 'vue'

import { useStudy } from '@/study/store'
import { cellsOf } from './setting'
import { type Otherwise, type Span, useSheets } from './sheets'
import { meantAs } from './words'

/** The chosen lines, the tags at hand, and whether codes were understood in the lines. */
const props = defineProps<{ lines: Span; variables: string[]; coded: boolean }>()
const study = useStudy()
const sheets = useSheets()

const within = (first: number, last: number): boolean => first <= props.lines[1] && last >= props.lines[0]
const begun = computed(() => sheets.page?.variables.filter((each) => within(each.first, each.first)) ?? [])
/** The cells of the first chosen line, where it is a row of a table. */
const cells = computed(() =>
  cellsOf(sheets.page?.lines[props.lines[0] - 1] ?? '').flatMap((cell, at) => (cell ? [{ cell, column: at + 1 }] : [])),
)
/** The variable above the lines, unless they are among those that describe it already. */
const above = computed(() => {
  const before = sheets.page?.variables.filter((each) => each.first < props.lines[0] && !begun.value.includes(each)) ?? []
  const last = before.reduce<(typeof before)[number] | undefined>((best, each) => (best && best.first >= each.first ? best : each), undefined)
  return last && (begun.value.length || (last.last < props.lines[0] && cells.value.length < 2)) ? last : undefined
})
const said = computed(() => sheets.page?.otherwise.filter((each) => within(each.first, each.last)) ?? [])
const atHand = computed(() => props.variables.map((id) => study.byId.get(id)?.name ?? '').filter(Boolean))

const asking = ref(false)
const names = ref('')
const field = ref<HTMLInputElement>()
watch(() => props.lines, () => (asking.value = false))

function say(are: Otherwise['are'], more: Partial<Otherwise> = {}): void {
  const [first, last] = props.lines
  void sheets.readOtherwise([...(sheets.page?.otherwise ?? []), { first, last, are, names: [], column: 1, ...more }])
}

function takeBack(gone: Otherwise): void {
  void sheets.readOtherwise(sheets.page?.otherwise.filter((each) => each !== gone) ?? [])
}

async function ask(): Promise<void> {
  names.value = atHand.value.join(', ')
  asking.value = true
  await nextTick()
  field.value?.select()
}

function belong(): void {
  const several = names.value.split(/[,;]/).map((each) => each.trim()).filter(Boolean)
  if (several.length) say('to', { names: several })
  asking.value = false
}
</script>

<template>
  <div v-if="above || begun.length || coded || cells.length || said.length" class="meant" data-test="meant">
    <p v-for="(each, at) in said" :key="at">
      You said: {{ meantAs(each) }}. <button class="link" data-test="meant-back" @click="takeBack(each)">Take back</button>
    </p>
    <p v-if="!said.length">
      <span class="soft">Meant otherwise?</span>
      <button v-if="above" class="link" data-test="meant-codes" title="Here, and wherever lines are set like these" @click="say('codes')">{{ begun.length ? 'Codes, not variables' : `Codes of ${above.name}` }}</button>
      <button v-if="begun.length" class="link" data-test="meant-nothing" @click="say('nothing')">No variable here</button>
      <button v-if="coded && !asking" class="link" data-test="meant-to" @click="ask">Belong to …</button>
    </p>
    <form v-if="asking" @submit.prevent="belong">
      <input ref="field" v-model="names" aria-label="Names of the variables they belong to" placeholder="site_1 to site_6" spellcheck="false" data-test="meant-names" @keydown.esc.stop="asking = false" />
      <v-btn type="submit" :disabled="!names.trim()">Read so</v-btn>
    </form>
    <p v-if="cells.length > 1 && !said.length">
      <span class="soft">Names are in the column of</span>
      <button v-for="each in cells.slice(0, 8)" :key="each.column" class="link" :data-test="`meant-names-${each.column}`" :title="each.cell" @click="say('names', { column: each.column })">{{ each.cell }}</button>
    </p>
  </div>
</template>

<style scoped>
.meant {
  margin-top: 8px;
  padding-top: 8px;
  border-top: 1px solid var(--line2);
}

p {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
}

.link {
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  color: var(--leaf);
  text-decoration: underline 1px;
  text-underline-offset: 3px;
}

form {
  display: flex;
  gap: 6px;
  margin-top: 6px;
}

input {
  flex: 1;
  min-width: 0;
  height: 28px;
  padding: 0 8px;
  font: 13px var(--mono);
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
}
</style>
