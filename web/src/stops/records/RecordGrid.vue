<script setup lang="ts">
/** All records by all variables: only what is in sight is drawn and fetched. */
import { computed, ref, useTemplateRef } from 'vue'

import { type AnyStep, newId, type Schema } from '@/api/client'

import { useStudy } from '@/study/store'
import { useAnswers } from './answers'
import { useBlock } from './block'
import CellInput from './CellInput.vue'
import { HEAD, ROW, type Seen, useGrid } from './grid'
import HeadCell from './HeadCell.vue'
import RecordCell from './RecordCell.vue'
import { useTyping } from './typing'
import { useRecordView } from './view'

const emit = defineEmits<{ seen: [seen: Seen] }>()
const study = useStudy()
const view = useRecordView()
const scroller = useTemplateRef<HTMLElement>('scroller')
const grid = useGrid(scroller, (seen) => emit('seen', seen))
const { at, tags, frozen, left, rowCount, range, inRange, rows, columns, record, cell, choose, goTo, onKey } = grid
const { copy, paste, recordsOf, onKey: onBlock } = useBlock(grid)
const { typing, text, begin, keep, keepAndMove, onKey: onTyping } = useTyping(grid, () => scroller.value?.focus())
const answers = useAnswers(() => tags.value[at.value.column]?.id ?? null)
/** Whether there is no room for a list below a row. */
const nearFoot = (start: number): boolean => start - (scroller.value?.scrollTop ?? 0) > (scroller.value?.clientHeight ?? 0) - 260
/** Pixels behind the last column, where another one is begun. */
const FRESH = 150
const [shownRows, shownColumns] = [rows.shown, columns.shown]
const [height, width] = [rows.total, columns.total]

/** Where a column stands: the frozen one sticks, the others lie at their place. */
const placed = (column: { index: number; start: number; size: number }): Record<string, string> =>
  column.index < frozen.value
    ? { left: `${left.value}px`, width: `${column.size}px` }
    : { transform: `translateX(${column.start}px)`, width: `${column.size}px` }

/** The column that is typed in: the field goes with its variable, wherever that is moved. */
const typedIn = computed(() => shownColumns.value.find((each) => tags.value[each.index]?.id === typing.value?.variable))

/** The number of a record; one that is only being made has none yet. */
const numbered = (row: number): string => {
  const number = record(row)
  return number === null ? '' : number > 0 ? String(number) : 'new'
}

function beginAt(row: number, column: number): void {
  choose(row, column)
  begin()
}

// Where something is typed, copy and paste mean the text there.
function onCopy(event: ClipboardEvent): void {
  if (typing.value) return
  event.preventDefault()
  void copy()
}

function onPaste(event: ClipboardEvent): void {
  const text = event.clipboardData?.getData('text/plain') ?? ''
  if (typing.value || !text) return
  event.preventDefault()
  void paste(text)
}

/** What is chosen now. */
const chosen = (): { record: number; variable: string | null } => ({
  record: Math.max(0, record(at.value.row) ?? 0),
  variable: tags.value[at.value.column]?.id ?? null,
})

/** The records of the chosen range. */
const records = (): Promise<number[]> => recordsOf(range.value.top, range.value.bottom)
/** The chosen entry, as it is shown. */
const entry = computed(() => {
  const tag = tags.value[at.value.column]
  return { record: record(at.value.row), cell: tag ? cell(at.value.row, tag.id) : null }
})

/** The chosen cell, where it is among those that are drawn. */
const drawn = computed(() => {
  const { row, column } = at.value
  const there = shownRows.value.some(({ index }) => index === row) && shownColumns.value.some(({ index }) => index === column)
  return there ? `cell-${row}-${column}` : undefined
})

/** Whether a cell bears a comment: on itself, or on its record, which its first cell shows. */
function isRemarked(row: number, variable: string): boolean {
  const number = record(row)
  return view.remarked.has(`${number}:${variable}`)
}
const isRecordRemarked = (row: number): boolean => view.remarked.has(`${record(row)}:`)

/** A new variable is begun by typing its name behind the last. */
const fresh = ref('')
async function beginVariable(): Promise<void> {
  const name = fresh.value.trim()
  if (!name) return
  const tag = { name } as Schema['Tag']
  const outcome = await study.take({ do: 'add variables', format: 1, variables: [{ id: newId(), tag }] } as unknown as AnyStep)
  if (!outcome) return
  fresh.value = ''
  const made = study.variables.at(-1)
  if (made && view.variables) view.variables = [...view.variables, made.id]
  if (made) goTo(at.value.row, made.id)
}

/** The variables of the chosen range. */
const within = (): string[] => tags.value.slice(range.value.left, range.value.right + 1).map((tag) => tag.id)

defineExpose({ goTo, keep, chosen, within, records, entry, rowCount })
</script>

<template>
  <div
    ref="scroller" class="grid scroll" data-home data-wide tabindex="0" role="grid" aria-label="Records" data-test="grid"
    :aria-rowcount="rowCount + 1" :aria-colcount="tags.length + 1" :aria-activedescendant="drawn" @keydown="onTyping($event) || onBlock($event) || onKey($event)" @copy="onCopy" @paste="onPaste"
  >
    <div class="canvas" :style="{ height: `${height}px`, width: `${width + FRESH}px` }">
      <div class="heads" role="row" aria-rowindex="1" :style="{ height: `${HEAD}px` }">
        <div class="corner" :style="{ width: `${left}px` }" />
        <HeadCell
          v-for="column in shownColumns" :key="String(column.key)" :tag="tags[column.index]!" :width="column.size" :class="{ frozen: column.index < frozen }"
          :aria-colindex="column.index + 1" :style="placed(column)"
        />
        <form class="fresh" role="columnheader" :aria-colindex="tags.length + 1" :style="{ transform: `translateX(${width}px)` }" @submit.prevent="beginVariable">
          <input v-model="fresh" class="mono" placeholder="+ variable" aria-label="Name of a new variable" spellcheck="false" data-test="fresh-variable" @keydown.stop />
        </form>
      </div>
      <div v-for="row in shownRows" :key="String(row.key)" class="row" :class="{ front: typing?.row === row.index }" role="row" :aria-rowindex="row.index + 2" :style="{ transform: `translateY(${row.start}px)`, height: `${ROW}px` }">
        <div class="number mono" :class="{ remarked: isRecordRemarked(row.index) }" role="rowheader" :title="isRecordRemarked(row.index) ? 'This record bears a comment' : undefined" :style="{ width: `${left}px` }">{{ numbered(row.index) }}</div>
        <RecordCell
          v-for="column in shownColumns" :key="String(column.key)" :cell="cell(row.index, tags[column.index]!.id)" :tag="tags[column.index]!" :show="study.show"
          :class="{ frozen: column.index < frozen }" :on="at.row === row.index && at.column === column.index" :among="inRange(row.index, column.index)" :remarked="isRemarked(row.index, tags[column.index]!.id)"
          :aria-colindex="column.index + 1" :id="`cell-${row.index}-${column.index}`" :style="placed(column)"
          @pointerdown="choose(row.index, column.index, $event.shiftKey)" @pointerenter="$event.buttons === 1 && choose(row.index, column.index, true)"
          @dblclick="beginAt(row.index, column.index)"
        />
        <CellInput
          v-if="typing?.row === row.index && typedIn" v-model="text" :answers="answers ?? []" :above="nearFoot(row.start)" :class="{ frozen: typedIn.index < frozen }" :style="placed(typedIn)"
          @focusout="keep" @take="keepAndMove(1, 0)"
        />
      </div>
    </div>
  </div>
</template>

<style scoped>
.grid {
  flex: 1;
  min-width: 0;
  min-height: 0;
  outline-offset: -2px;
  background: var(--paper);
}

.canvas {
  position: relative;
}

.heads {
  display: flex;
  position: sticky;
  top: 0;
  z-index: 3;
  background: var(--bed);
  border-bottom: 1px solid var(--line2);
}

.corner,
.number {
  flex: none;
  position: sticky;
  left: 0;
  z-index: 2;
  background: var(--bed);
  border-right: 1px solid var(--line2);
  height: 100%;
}

.fresh {
  position: absolute;
  top: 0;
  left: 0;
  width: 150px;
  padding: 8px;
}

.fresh input {
  width: 100%;
  height: 28px;
  padding: 0 8px;
  border: 1px dashed var(--edge);
  border-radius: 6px;
  font-size: 12.5px;
}

.remarked {
  box-shadow: inset 3px 0 0 var(--slate);
}

.row {
  display: flex;
  position: absolute;
  top: 0;
  left: 0;
  width: 100%;
}

.row.front {
  z-index: 2;
}

.number {
  font-size: 12.5px;
  color: var(--soft);
  text-align: right;
  padding: 7px 8px 0 0;
  border-bottom: 1px solid var(--line);
}
</style>
