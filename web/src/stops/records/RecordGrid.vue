<script setup lang="ts">
/** All records by all variables: only what is in sight is drawn and fetched. */
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, watch } from 'vue'

import LevelSign from '@/parts/LevelSign.vue'
import { count } from '@/study/shown'
import { useStudy } from '@/study/store'
import { useBlocks } from './blocks'
import RecordCell from './RecordCell.vue'
import { columnWidth, frozenWidth, inOrder } from './columns'

const emit = defineEmits<{
  stray: [record: number, variable: string | null]
  seen: [seen: { first: number; last: number; said: string }]
}>()

const ROW = 33
const HEAD = 50
const STATES = ['valid', 'coded missing', 'blank', 'unreadable', 'not allowed']
const study = useStudy()
const scroller = ref<HTMLElement>()
const at = ref({ row: 0, column: 0 })

const tags = computed(() => inOrder(study.variables))
const frozen = computed(() => (tags.value[0]?.use === 'identifier' ? 1 : 0))
const left = computed(() => frozenWidth(study.overview?.records ?? 0))
const rowCount = computed(() => study.overview?.records ?? 0)
const blocks = useBlocks(() => tags.value.map((tag) => tag.id))

const rows = useVirtualizer(
  computed(() => ({
    count: rowCount.value, getScrollElement: () => scroller.value ?? null, estimateSize: () => ROW, overscan: 6,
    scrollPaddingStart: HEAD, paddingStart: HEAD,
  })),
)
const columns = useVirtualizer(
  computed(() => ({
    horizontal: true, count: tags.value.length, getScrollElement: () => scroller.value ?? null, overscan: 2,
    estimateSize: (index: number) => columnWidth(tags.value[index]!, study.show),
    paddingStart: left.value,
    scrollPaddingStart: left.value + (frozen.value && tags.value[0] ? columnWidth(tags.value[0], study.show) : 0),
    rangeExtractor: (range: { startIndex: number; endIndex: number; overscan: number; count: number }) => {
      const out = frozen.value ? [0] : []
      const from = Math.max(out.length, range.startIndex - range.overscan)
      const to = Math.min(range.count - 1, range.endIndex + range.overscan)
      for (let index = from; index <= to; index++) out.push(index)
      return out
    },
  })),
)
const shownRows = computed(() => rows.value.getVirtualItems())
const shownColumns = computed(() => columns.value.getVirtualItems())

const said = computed(() => {
  const tag = tags.value[at.value.column]
  const cell = blocks.cell(at.value.row, at.value.column)
  if (!tag || !cell) return ''
  const record = blocks.record(at.value.row, at.value.column) ?? at.value.row + 1
  const entry = cell.text.trim() ? ` · “${cell.text.slice(0, 60)}”` : ''
  return `record ${count(record)} · ${tag.name} ${tag.label}${entry} · ${STATES[cell.state]}`
})

watch(() => [study.show, tags.value], () => columns.value.measure())
watch(
  [shownRows, shownColumns, () => study.revision, said],
  () => {
    const [top, bottom] = [shownRows.value[0], shownRows.value.at(-1)]
    const [start, end] = [shownColumns.value[frozen.value], shownColumns.value.at(-1)]
    if (!top || !bottom || !end) return
    if (frozen.value) blocks.look(top.index, bottom.index, 0, 0)
    blocks.look(top.index, bottom.index, start?.index ?? 0, end.index)
    const height = scroller.value?.clientHeight ?? 0
    const first = Math.floor((scroller.value?.scrollTop ?? 0) / ROW) + 1
    const last = Math.min(rowCount.value, first + Math.floor((height - HEAD) / ROW) - 1)
    emit('seen', { first, last, said: said.value })
  },
  { immediate: true },
)

function choose(row: number, column: number): void {
  at.value = {
    row: Math.min(Math.max(row, 0), rowCount.value - 1),
    column: Math.min(Math.max(column, 0), tags.value.length - 1),
  }
  rows.value.scrollToIndex(at.value.row, { align: 'auto' })
  if (at.value.column >= frozen.value) columns.value.scrollToIndex(at.value.column, { align: 'auto' })
}

function goTo(record: number, variable: string): void {
  const column = tags.value.findIndex((tag) => tag.id === variable)
  rows.value.scrollToIndex(Math.max(0, record - 1), { align: 'center' })
  void nextTick(() => {
    choose(record - 1, column)
    scroller.value?.focus()
  })
}

function nextStray(): void {
  const record = blocks.record(at.value.row, at.value.column) ?? 0
  emit('stray', record, tags.value[at.value.column]?.id ?? null)
}

const PAGE = 15
function onKey(event: KeyboardEvent): void {
  const { row, column } = at.value
  const moves: Record<string, () => void> = {
    ArrowDown: () => choose(row + 1, column),
    ArrowUp: () => choose(row - 1, column),
    ArrowRight: () => choose(row, column + 1),
    ArrowLeft: () => choose(row, column - 1),
    PageDown: () => choose(row + PAGE, column),
    PageUp: () => choose(row - PAGE, column),
    Home: () => choose(event.ctrlKey ? 0 : row, 0),
    End: () => choose(event.ctrlKey ? rowCount.value - 1 : row, tags.value.length - 1),
    F8: nextStray,
  }
  const move = moves[event.key]
  if (!move || event.altKey) return
  event.preventDefault()
  move()
}

defineExpose({ goTo, nextStray })
</script>

<template>
  <div
    ref="scroller" class="grid scroll" tabindex="0" role="grid" aria-label="Records" data-test="grid"
    :aria-rowcount="rowCount" :aria-colcount="tags.length" @keydown="onKey"
  >
    <div class="canvas" :style="{ height: `${rows.getTotalSize()}px`, width: `${columns.getTotalSize()}px` }">
      <div class="heads" role="row" :style="{ height: `${HEAD}px` }">
        <div class="corner" :style="{ width: `${left}px` }" />
        <div
          v-for="column in shownColumns" :key="String(column.key)" class="head" role="columnheader" :class="{ frozen: column.index < frozen }"
          :style="column.index < frozen ? { left: `${left}px`, width: `${column.size}px` } : { transform: `translateX(${column.start}px)`, width: `${column.size}px` }"
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
          :style="column.index < frozen ? { left: `${left}px`, width: `${column.size}px` } : { transform: `translateX(${column.start}px)`, width: `${column.size}px` }"
          @click="choose(row.index, column.index)"
        />
      </div>
    </div>
  </div>
</template>

<style scoped>
.grid {
  flex: 1;
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
