<script setup lang="ts">
/** All records by all variables: only what is in sight is drawn and fetched. */
import { useTemplateRef } from 'vue'

import LevelSign from '@/parts/LevelSign.vue'
import { useStudy } from '@/study/store'
import CellInput from './CellInput.vue'
import { HEAD, ROW, type Seen, useGrid } from './grid'
import RecordCell from './RecordCell.vue'
import { useTyping } from './typing'

const emit = defineEmits<{ stray: [record: number, variable: string | null]; seen: [seen: Seen] }>()
const study = useStudy()
const scroller = useTemplateRef<HTMLElement>('scroller')
const grid = useGrid(scroller, {
  stray: (record, variable) => emit('stray', record, variable),
  seen: (seen) => emit('seen', seen),
})
const typing = useTyping({
  cell: () => {
    const { row, column } = grid.at.value
    const [cell, record, tag] = [grid.blocks.cell(row, column), grid.blocks.record(row, column), grid.tags.value[column]]
    return cell && record && tag ? { variable: tag.id, record, text: cell.text } : null
  },
  move: (rows, columns) => {
    grid.choose(grid.at.value.row + rows, grid.at.value.column + columns)
    scroller.value?.focus()
  },
})
const typed = typing.text
const { at, tags, frozen, left, rowCount, rows, columns, shownRows, shownColumns, blocks, choose, onKey } = grid

/** Where a column stands: the frozen one sticks, the others lie at their place. */
const placed = (column: { index: number; start: number; size: number }): Record<string, string> =>
  column.index < frozen.value
    ? { left: `${left.value}px`, width: `${column.size}px` }
    : { transform: `translateX(${column.start}px)`, width: `${column.size}px` }

defineExpose({ goTo: grid.goTo, nextStray: grid.nextStray })
</script>

<template>
  <div
    ref="scroller" class="grid scroll" tabindex="0" role="grid" aria-label="Records" data-test="grid"
    :aria-rowcount="rowCount" :aria-colcount="tags.length" @keydown="typing.onKey($event) || onKey($event)"
  >
    <div class="canvas" :style="{ height: `${rows.getTotalSize()}px`, width: `${columns.getTotalSize()}px` }">
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
      <div v-for="row in shownRows" :key="String(row.key)" class="row" role="row" :style="{ transform: `translateY(${row.start}px)`, height: `${ROW}px` }">
        <div class="number mono" role="rowheader" :style="{ width: `${left}px` }">{{ blocks.record(row.index, frozen ? 0 : shownColumns[0]?.index) ?? '' }}</div>
        <RecordCell
          v-for="column in shownColumns" :key="String(column.key)" :cell="blocks.cell(row.index, column.index)" :tag="tags[column.index]!" :show="study.show"
          :class="{ frozen: column.index < frozen }" :on="at.row === row.index && at.column === column.index"
          :style="placed(column)"
          @click="choose(row.index, column.index)" @dblclick="typed = blocks.cell(row.index, column.index)?.text ?? null"
        />
        <template v-for="column in shownColumns" :key="`typed-${String(column.key)}`">
          <CellInput
            v-if="typed !== null && at.row === row.index && at.column === column.index" v-model="typed" :class="{ frozen: column.index < frozen }"
            :style="placed(column)" @blur="typed !== null && typing.keep(0, 0)"
          />
        </template>
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

.number {
  font-size: 12.5px;
  color: var(--soft);
  text-align: right;
  padding: 7px 8px 0 0;
  border-bottom: 1px solid var(--line);
}
</style>
