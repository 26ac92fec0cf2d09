<script setup lang="ts">
/** A document line by line: names light up, the lines of some variables stand out, lines can be chosen. */
import { useEventListener } from '@vueuse/core'
import { computed, ref, watch } from 'vue'

import type { Schema } from '@/api/client'
import { useVirtual } from '@/parts/virtual'
import type { Described, Span } from './sheets'
import { settingOf, type Setting } from './setting'
import { sureness } from './words'

const props = defineProps<{ page: Schema['SheetPage']; spans: Span[]; find: string; hit: number | null }>()
const emit = defineEmits<{ go: [variable: string]; apply: [] }>()
/** The first and last line that are chosen, from 1. */
const chosen = defineModel<Span | null>({ required: true })
const scroller = ref<HTMLElement>()

const PER_LINE = 40
const set = computed<Setting[]>(() => props.page.lines.map(settingOf))
const lines = useVirtual(scroller, () => ({
  count: props.page.lines.length,
  size: (index) => {
    const { kind, cells } = set.value[index]!
    return kind === 'ruler' ? 1 : 4 + 20 * Math.max(...cells.map((cell) => Math.max(1, Math.ceil((cell.length * cells.length) / PER_LINE))))
  },
  overscan: 12,
}))
const { shown, total, measured } = lines

const unplaced = computed(() => new Set(props.page.unplaced))
const heads = computed(() => {
  const out = new Map<number, Described[]>()
  for (const each of props.page.variables) out.set(each.first, [...(out.get(each.first) ?? []), each])
  return out
})
const mine = (line: number): boolean => props.spans.some(([first, last]) => first <= line && line <= last)
const picked = (line: number): boolean => chosen.value !== null && chosen.value[0] <= line && line <= chosen.value[1]

interface Piece {
  text: string
  variable?: Described
  found?: boolean
}

/** Where a name stands in a text. */
function placed(name: string, text: string): RegExpExecArray | null {
  const bare = name.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')
  return new RegExp(`(?<![\\p{L}\\p{N}_])${bare}(?![\\p{L}\\p{N}_])`, 'iu').exec(text)
}

/** The variables whose names stand in a cell of a line: each in the cell that is nothing else, or in the first. */
function named(line: number, column: number): Described[] {
  const cells = set.value[line - 1]!.cells
  return (heads.value.get(line) ?? []).filter(({ name }) => {
    const alone = cells.findIndex((cell) => cell.toLowerCase() === name.toLowerCase())
    return column === (alone < 0 ? cells.findIndex((cell) => placed(name, cell)) : alone)
  })
}

/** What a cell of a line says in pieces: names of variables, what is looked for, and the rest. */
function pieces(text: string, line: number, column: number): Piece[] {
  const looked = props.find.trim().toLowerCase()
  if (looked) {
    const out: Piece[] = []
    let at = 0
    for (let next; (next = text.toLowerCase().indexOf(looked, at)) >= 0; at = next + looked.length) {
      out.push({ text: text.slice(at, next) }, { text: text.slice(next, next + looked.length), found: true })
    }
    return [...out, { text: text.slice(at) }]
  }
  for (const variable of named(line, column)) {
    const at = placed(variable.name, text)
    if (at) return [{ text: text.slice(0, at.index) }, { text: at[0], variable }, { text: text.slice(at.index + at[0].length) }]
  }
  return [{ text }]
}

// Choosing ---------------------------------------------------------------------------------------

let anchor = 0
let end = 0
let sweeping = false

function press(line: number, event: MouseEvent): void {
  if (event.button || (event.target as HTMLElement).closest('.link')) return
  scroller.value?.focus()
  if (!event.shiftKey || !chosen.value) anchor = line
  sweeping = true
  upTo(line)
}

function upTo(line: number): void {
  end = line
  chosen.value = [Math.min(anchor, line), Math.max(anchor, line)]
}

useEventListener(window, 'mouseup', () => (sweeping = false))

function keys(event: KeyboardEvent): void {
  const by = { ArrowUp: -1, ArrowDown: 1, PageUp: -12, PageDown: 12, Home: -1e9, End: 1e9 }[event.key]
  if (by !== undefined) {
    if (!chosen.value) anchor = end = (props.spans[0]?.[0] ?? 1) - Math.sign(by)
    end = Math.min(Math.max((event.shiftKey || chosen.value?.[0] === chosen.value?.[1] ? end : anchor) + by, 1), props.page.lines.length)
    if (!event.shiftKey) anchor = end
    upTo(end)
    lines.show(end - 1)
  } else if (event.key === 'Escape' && chosen.value) chosen.value = null
  else if (event.key === 'Enter' && event.ctrlKey) emit('apply')
  else if (event.key === 'Enter') {
    const named = heads.value.get(chosen.value?.[0] ?? 0)?.find((each) => each.variable)
    if (named) emit('go', named.variable!)
  } else return
  event.preventDefault()
  event.stopPropagation()
}

function copy(event: ClipboardEvent): void {
  if (!chosen.value) return
  event.preventDefault()
  event.clipboardData?.setData('text/plain', props.page.lines.slice(chosen.value[0] - 1, chosen.value[1]).join('\n'))
}

// Scrolling along --------------------------------------------------------------------------------

function show(first: number, last: number): void {
  const seen = shown.value.filter((item) => {
    const top = scroller.value?.scrollTop ?? 0
    return item.start >= top && item.end <= top + (scroller.value?.clientHeight ?? 0)
  })
  const [top, bottom] = [seen[0]?.index ?? 0, seen.at(-1)?.index ?? -1]
  if (first - 1 < top || Math.min(last, first + 10) - 1 > bottom) lines.show(Math.max(0, first - 3), 'start')
}

watch(
  () => [props.page.id, props.spans[0]?.[0], props.spans[0]?.[1], scroller.value] as const,
  ([, first, last]) => {
    if (first !== undefined) requestAnimationFrame(() => show(first, last ?? first))
  },
  { immediate: true },
)
watch(() => props.hit, (line) => line && lines.show(line - 1, 'center'))
</script>

<template>
  <div
    ref="scroller" class="lines scroll" tabindex="0" role="listbox" aria-multiselectable="true" :aria-label="`Lines of ${page.name}`" data-test="sheet-lines"
    :aria-activedescendant="chosen ? `line-${chosen[1]}` : undefined" @keydown="keys" @copy="copy"
  >
    <div class="all" :style="{ height: `${total}px` }">
      <div
        v-for="item in shown" :id="`line-${item.index + 1}`" :key="item.index" :ref="measured" :data-index="item.index"
        class="line" role="option" :aria-selected="picked(item.index + 1)" :aria-label="page.lines[item.index]!.trim() || 'blank line'" :style="{ transform: `translateY(${item.start}px)` }"
        :class="[set[item.index]!.kind, `depth-${Math.min(set[item.index]!.depth, 6)}`, { mine: mine(item.index + 1), grey: unplaced.has(item.index + 1), picked: picked(item.index + 1), hit: hit === item.index + 1 }]"
        @mousedown.prevent="press(item.index + 1, $event)" @mouseenter="sweeping && upTo(item.index + 1)"
      >
        <span v-if="set[item.index]!.mark" class="mark">{{ set[item.index]!.mark }}</span>
        <span v-for="(cell, column) in set[item.index]!.cells" :key="column" class="cell">
          <template v-for="(piece, at) in pieces(cell, item.index + 1, column)" :key="at">
            <span
              v-if="piece.variable?.variable" class="name link" :title="`${sureness(piece.variable)}. Go to its tag.`"
              :data-test="`sheet-name-${piece.variable.name}`" @click="emit('go', piece.variable.variable)"
            >{{ piece.text }}</span>
            <b v-else-if="piece.variable" class="name unmet" :title="`${sureness(piece.variable)}. Not in the data under this name.`">{{ piece.text }}</b>
            <mark v-else-if="piece.found">{{ piece.text }}</mark>
            <template v-else>{{ piece.text }}</template>
          </template>&nbsp;
        </span>
      </div>
    </div>
  </div>
</template>

<style scoped>
.lines {
  flex: 1;
  min-height: 0;
  outline-offset: -2px;
  user-select: none;
}

.all {
  position: relative;
}

.line {
  position: absolute;
  top: 0;
  left: 0;
  width: 100%;
  padding: 2px 12px 2px 14px;
  border-left: 3px solid transparent;
  font: 400 14px/20px var(--serif);
  white-space: pre-wrap;
  overflow-wrap: break-word;
  cursor: default;
}

.heading {
  padding-top: 8px;
  font: 600 15px/20px var(--sans);
}

.heading.depth-1 {
  font-size: 18px;
  line-height: 24px;
}

.heading.depth-2 {
  font-size: 16px;
}

.page {
  color: var(--dim);
  font: 400 11px/20px var(--sans);
  text-align: right;
  border-bottom: 1px dashed var(--line);
}

.ruler {
  padding-block: 0;
  height: 1px;
  line-height: 0;
  overflow: hidden;
  background: var(--line);
}

.row {
  display: grid;
  grid-auto-flow: column;
  grid-template-columns: minmax(0, 2fr);
  grid-auto-columns: minmax(0, 1fr);
  gap: 0 10px;
  font-size: 13px;
  border-bottom: 1px solid var(--line);
}

.flow {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  font-size: 13px;
  border-bottom: 1px solid var(--line);
}

.term {
  padding-top: 6px;
  font-weight: 600;
}

.item {
  display: flex;
  gap: 8px;
}

.mark {
  flex: none;
  min-width: 18px;
  color: var(--dim);
}

.depth-1:not(.heading) {
  padding-left: 26px;
}

.depth-2:not(.heading) {
  padding-left: 38px;
}

.depth-3:not(.heading) {
  padding-left: 50px;
}

.depth-4:not(.heading),
.depth-5:not(.heading),
.depth-6:not(.heading) {
  padding-left: 62px;
}

.grey {
  color: var(--dim);
}

.mine {
  background: var(--leaf-pale);
  border-left-color: var(--leaf);
}

.picked {
  background: color-mix(in srgb, var(--sun) 34%, var(--sheet));
  border-left-color: var(--ink);
  color: var(--ink);
}

.name {
  font: 600 13px/20px var(--mono);
  color: var(--leaf);
  text-decoration: underline 1px;
  text-underline-offset: 3px;
}

.link {
  cursor: pointer;
}

.unmet {
  color: inherit;
  text-decoration-style: dashed;
}

.picked .name {
  color: inherit;
}

mark {
  background: var(--sun);
  color: #1e2a24;
}

.hit {
  border-left-color: var(--sun);
}
</style>
