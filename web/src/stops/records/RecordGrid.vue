<script setup lang="ts">
/** All records by all variables: only what is in sight is drawn and fetched. */
import { computed, useTemplateRef } from 'vue'

import LevelSign from '@/parts/LevelSign.vue'
import { useStudy } from '@/study/store'
import { useAnswers } from './answers'
import { useBlock } from './block'
import CellInput from './CellInput.vue'
import { HEAD, ROW, type Seen, useGrid } from './grid'
import RecordCell from './RecordCell.vue'
import { useTyping } from './typing'

const emit = defineEmits<{ seen: [seen: Seen] }>()
const study = useStudy()
const scroller = useTemplateRef<HTMLElement>('scroller')
const grid = useGrid(scroller, (seen) => emit('seen', seen))
const { at, tags, frozen, left, rowCount, range, inRange, rows, columns, record, cell, choose, goTo, onKey } = grid
const { copy, paste, onKey: onBlock } = useBlock(grid)
const { typing, text, begin, keep, keepAndMove, onKey: onTyping } = useTyping(grid, () => scroller.value?.focus())
const answers = useAnswers(() => tags.value[at.value.column]?.id ?? null)
/** Whether there is no room for a list below a row. */
const nearFoot = (start: number): boolean => start - (scroller.value?.scrollTop ?? 0) > (scroller.value?.clientHeight ?? 0) - 260
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

/** The variables of the chosen range. */
const within = (): string[] => tags.value.slice(range.value.left, range.value.right + 1).map((tag) => tag.id)

defineExpose({ goTo, keep, chosen, within, rowCount })
</script>

<template>
  <div
    ref="scroller" class="grid scroll" tabindex="0" role="grid" aria-label="Records" data-test="grid"
    :aria-rowcount="rowCount" :aria-colcount="tags.length" @keydown="onTyping($event) || onBlock($event) || onKey($event)" @copy="onCopy" @paste="onPaste"
  >
    <div class="canvas" :style="{ height: `${height}px`, width: `${width}px` }">
      <div class="heads" role="row" :style="{ height: `${HEAD}px` }">
        <div class="corner" :style="{ width: `${left}px` }" />
        <div
          v-for="column in shownColumns" :key="String(column.key)" class="head" role="columnheader" :class="{ frozen: column.index < frozen }"
          :style="placed(column)"
        >
          <div class="name"><LevelSign :level="tags[column.index]!.level" /> <span class="mono">{{ tags[column.index]!.name }}</span></div>
          <div class="label" :title="tags[column.index]!.label">{{ tags[column.index]!.label }}</div>
        </div>
      </div>
      <div v-for="row in shownRows" :key="String(row.key)" class="row" :class="{ front: typing?.row === row.index }" role="row" :style="{ transform: `translateY(${row.start}px)`, height: `${ROW}px` }">
        <div class="number mono" role="rowheader" :style="{ width: `${left}px` }">{{ numbered(row.index) }}</div>
        <RecordCell
          v-for="column in shownColumns" :key="String(column.key)" :cell="cell(row.index, tags[column.index]!.id)" :tag="tags[column.index]!" :show="study.show"
          :class="{ frozen: column.index < frozen }" :on="at.row === row.index && at.column === column.index" :among="inRange(row.index, column.index)"
          :style="placed(column)"
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

.head {
  position: absolute;
  top: 0;
  left: 0;
  height: 100%;
  padding: 5px 8px;
  border-right: 1px solid var(--line2);
  overflow: hidden;
  white-space: nowrap;
}

.head.frozen {
  position: sticky;
  flex: none;
  z-index: 2;
  background: var(--bed);
}

.name {
  font-size: 13px;
  font-weight: 600;
  overflow: hidden;
  text-overflow: ellipsis;
}

.label {
  font-size: 12px;
  color: var(--soft);
  overflow: hidden;
  text-overflow: ellipsis;
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
