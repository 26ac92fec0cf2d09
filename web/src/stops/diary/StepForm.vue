<script setup lang="ts">
/** A step, or a part of one, as it is written: a field for each text, rows for lists, names beside what they stand for. */
import { computed, ref } from 'vue'

import { parted } from '@/stops/derive/sentence'
import SentenceRows from './SentenceRows.vue'

defineOptions({ name: 'StepForm' })
const value = defineModel<unknown>({ required: true })
/** `was` is what stood there before it was amended, shown where something else stands now. */
const props = withDefaults(defineProps<{ name?: string; path?: string; was?: unknown }>(), { name: '', path: '', was: undefined })
const old = (part: string | number): unknown => (props.was !== null && typeof props.was === 'object' ? (props.was as Record<string | number, unknown>)[part] : undefined)

/** Parts that map names to something, and what stands left and right; of all others the names are those of the step's own parts. */
const MAPPINGS: Record<string, [string, string]> = {
  names: ['variable', 'new name'], entries: ['record', 'entry'], into: ['variable', 'its name'], copies: ['variable', 'its copy'],
  matched: ['column', 'variable'], widths: ['variable', 'width'], thresholds: ['threshold', 'set to'], batteries: ['battery', 'its title'],
  sections: ['section', 'its title'], lists: ['code list', 'what it holds'], tags: ['variable', 'its tag'], places: ['variable', 'its place'],
}
const kind = computed(() => (Array.isArray(value.value) ? 'list' : value.value !== null && typeof value.value === 'object' ? 'parts' : typeof value.value === 'boolean' ? 'tick' : 'text'))
const parts = computed(() => Object.entries(value.value as Record<string, unknown>).filter(([name]) => name !== 'do' && name !== 'format'))
const list = computed(() => value.value as unknown[])
const mapping = computed(() => MAPPINGS[props.name])
const plain = (each: unknown): boolean => each === null || typeof each !== 'object'
const allPlain = computed(() => list.value.every(plain))
const text = computed(() => (value.value === null ? '' : String(value.value)))
const differs = computed(() => props.was !== undefined && (props.was === null || typeof props.was !== 'object') && String(props.was ?? '') !== text.value)
/** Parts that hold sentences. */
const LONG = ['how', 'holds', 'text', 'question', 'note', 'find']
const isLong = (name: string, each: unknown): boolean => plain(each) && typeof each !== 'boolean' && (LONG.includes(name) || String(each ?? '').length > 60 || String(each ?? '').includes('\n'))
const long = computed(() => isLong(props.name, value.value))
/** Sentences that have lines are written line by line, from when their panel opens until somebody wants it otherwise. */
const inRows = ref(kind.value === 'text' && props.name === 'how' && parted(text.value) !== null)
const wide = (name: string, each: unknown): boolean => (plain(each) ? isLong(name, each) : !(Array.isArray(each) && each.every(plain)))

/** A number stays one where that is what was typed. */
function typed(event: Event): void {
  const now = (event.target as HTMLInputElement).value
  value.value = typeof value.value === 'number' && /^-?\d+$/.test(now.trim()) ? Number(now) : now
}
const setPart = (name: string, part: unknown): void => void (value.value = { ...(value.value as object), [name]: part })
function rename(name: string, event: Event): void {
  const now = (event.target as HTMLInputElement).value
  value.value = Object.fromEntries(Object.entries(value.value as object).map(([each, part]) => [each === name ? now : each, part]))
}
const without = (name: string): void => void (value.value = Object.fromEntries(Object.entries(value.value as object).filter(([each]) => each !== name)))
const setItem = (at: number, item: unknown): void => void (value.value = list.value.map((each, number) => (number === at ? item : each)))
const removeItem = (at: number): void => void (value.value = list.value.filter((_, number) => number !== at))
/** One more like the last, with nothing in it. */
function emptied(each: unknown): unknown {
  if (Array.isArray(each)) return []
  if (each !== null && typeof each === 'object') return Object.fromEntries(Object.entries(each).map(([name, part]) => [name, emptied(part)]))
  return typeof each === 'boolean' ? false : ''
}
const more = (): void => void (value.value = [...list.value, emptied(list.value.at(-1) ?? '')])
const morePair = (): void => setPart('', emptied(Object.values(value.value as object).at(-1) ?? ''))
</script>

<template>
  <input v-if="kind === 'tick'" type="checkbox" :checked="value as boolean" :aria-label="path" @change="value = ($event.target as HTMLInputElement).checked" />
  <SentenceRows v-else-if="inRows" :model-value="text" :was="was === undefined ? null : String(was ?? '')" :path="path" @update:model-value="value = $event" @whole="inRows = false" />
  <template v-else-if="kind === 'text' && long"><textarea class="mono" rows="2" :value="text" :aria-label="path" :data-test="`part-${path}`" spellcheck="false" @input="typed" /><del v-if="differs">{{ was || 'nothing' }}</del></template>
  <template v-else-if="kind === 'text'"><input :list="path.startsWith('variable') ? 'names-of-variables' : undefined" class="mono" :value="text" :aria-label="path" :data-test="`part-${path}`" spellcheck="false" @input="typed" /><del v-if="differs" data-test="part-was">{{ was || 'nothing' }}</del></template>
  <div v-else-if="kind === 'list'" class="list" :class="{ across: allPlain }">
    <div v-for="(item, number) in list" :key="number" class="item">
      <StepForm :model-value="item" :was="old(number)" :path="`${path}.${number + 1}`" @update:model-value="setItem(number, $event)" />
      <button class="off" :aria-label="`Take ${path} ${number + 1} away`" @click="removeItem(number)">×</button>
    </div>
    <button class="act" :data-test="`more-${path}`" @click="more">one more</button>
  </div>
  <div v-else class="parts" :class="{ inner: path, mapping }">
    <div v-if="mapping" class="part soft" aria-hidden="true"><span class="key">{{ mapping[0] }}</span><span>{{ mapping[1] }}</span></div>
    <template v-for="([part, inner], number) in parts" :key="mapping ? number : part">
      <div class="part" :class="{ wide: wide(part, inner) }">
        <input v-if="mapping" list="names-of-variables" class="mono key" :value="part" :aria-label="`${path} ${number + 1}, name`" :data-test="`key-${path}.${number + 1}`" @change="rename(part, $event)" />
        <span v-else class="label">{{ part }}</span>
        <StepForm :model-value="inner" :was="old(part)" :name="part" :path="path ? `${path}.${mapping ? number + 1 : part}` : part" @update:model-value="setPart(part, $event)" />
        <button v-if="mapping" class="off" :aria-label="`Take ${part} away`" @click="without(part)">×</button>
      </div>
    </template>
    <button v-if="mapping" class="act" :data-test="`more-${path}`" @click="morePair">one more</button>
  </div>
</template>

<style scoped>
.parts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  flex: 1;
  min-width: 0;
}

.inner {
  padding: 6px 10px;
  background: var(--white);
  border: 1px solid var(--line2);
  border-radius: 6px;
}

del {
  font-size: 12.5px;
  margin-left: 6px;
  white-space: pre-line;
}

.inner:not(.mapping) > .part:not(.wide) {
  flex: 1 1 120px;
}

.inner:not(.mapping) > .part:not(.wide):first-child {
  flex: 0 1 130px;
}

.part {
  display: flex;
  gap: 8px;
  align-items: center;
}

.parts:not(.inner) > .part > input {
  width: auto;
  min-width: 132px;
  max-width: 100%;
  field-sizing: content;
}

.mapping .key {
  width: 132px;
}

.parts:not(.inner) > .part,
.wide {
  flex: 1 1 100%;
  align-items: flex-start;
}

.label {
  font-size: 12.5px;
  color: var(--soft);
  line-height: 30px;
  white-space: nowrap;
}

.parts:not(.inner) > .part > .label {
  width: 92px;
  flex: none;
}

.list {
  flex: 1;
  min-width: 0;
}

.across {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  align-items: center;
}

.item {
  display: flex;
  gap: 4px;
  align-items: center;
  margin-bottom: 4px;
}

.across .item {
  margin: 0;
}

.inner:not(.mapping) > .part:not(.wide) {
  flex-wrap: wrap;
}

.inner:not(.mapping) > .part:not(.wide) > input {
  flex: 1 1 60px;
  width: 60px;
}

.inner:not(.mapping) > .part:not(.wide, :first-child) > input {
  flex-basis: 150px;
}

input:not([type='checkbox']),
textarea {
  min-width: 60px;
  width: 132px;
  height: 30px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 8px;
  font-size: 13px;
}

textarea {
  width: 100%;
  height: auto;
  padding: 5px 8px;
}

.off {
  width: 24px;
  height: 24px;
  color: var(--soft);
}
</style>
