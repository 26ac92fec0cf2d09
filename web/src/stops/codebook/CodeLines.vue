<script setup lang="ts">
/** Code lines with their evidence, missing codes, and what occurs without being listed: one list. */
import { computed, ref } from 'vue'

import type { TableRow, CodebookPage } from '@/api/client'
import AddLines from './AddLines.vue'
import CodeLine from './CodeLine.vue'
import LooseLine from './LooseLine.vue'
import type { Page } from './page'

const props = defineProps<{ page: CodebookPage; actions: Page }>()
const emit = defineEmits<{ accept: [row: TableRow]; acceptAll: [rows: TableRow[]] }>()

const rows = computed(() => props.page.table.rows)
const lines = computed(() => rows.value.filter((row) => row.listed && row.reading === 'valid'))
const missing = computed(() => rows.value.filter((row) => row.reading === 'missing'))
const keptEntries = computed(() => new Map(props.page.kept.map((each) => [each.entry, each.reason])))
const loose = computed(() => rows.value.filter((row) => !row.listed).sort((a, b) => b.count - a.count))
const shownLoose = ref(12)
const most = computed(() => Math.max(1, ...rows.value.map((row) => row.count)))
const dragged = ref<TableRow | null>(null)

function put(row: TableRow, at: number): void {
  const rest = lines.value.filter((each) => each.code !== row.code)
  rest.splice(at, 0, row)
  void props.actions.order(rest)
}

function move(row: TableRow, by: number): void {
  const at = lines.value.indexOf(row) + by
  if (at >= 0 && at < lines.value.length) put(row, at)
}

/** As wide as the codes are, within bounds. */
const codeWidth = computed(() => {
  const longest = Math.max(...rows.value.map((row) => row.code.length), 0)
  return `${Math.min(200, Math.max(56, longest * 9 + 16))}px`
})
const sortable = computed(() => lines.value.length > 1)
const BY: Record<'code' | 'label' | 'count', (a: TableRow, b: TableRow) => number> = {
  code: (a, b) => parseFloat(a.code) - parseFloat(b.code) || a.code.localeCompare(b.code, undefined, { numeric: true }),
  label: (a, b) => a.label.localeCompare(b.label),
  count: (a, b) => b.count - a.count,
}

function sort(by: keyof typeof BY): void {
  const sorted = [...lines.value].sort(BY[by])
  if (sorted.some((row, at) => row !== lines.value[at])) void props.actions.order(sorted)
}

function dropOn(target: TableRow): void {
  if (dragged.value && dragged.value.code !== target.code) put(dragged.value, lines.value.indexOf(target))
  dragged.value = null
}
</script>

<template>
  <section class="lines" data-run aria-label="Code lines" :style="{ '--code': codeWidth }">
    <div v-if="rows.length" class="head">
      <span /><span class="right"><button :disabled="!sortable" title="Sort the list by code" data-test="sort-code" @click="sort('code')">code</button></span>
      <span><button :disabled="!sortable" title="Sort the list by label" data-test="sort-label" @click="sort('label')">label</button></span><span>missing reason</span>
      <span class="right"><button :disabled="!sortable" title="Sort the list by count, most first" data-test="sort-count" @click="sort('count')">count</button></span><span />
    </div>
    <CodeLine
      v-for="row in lines" :key="`code ${row.code}`" :row="row" :most="most" :actions="actions" :of="page.ids.length"
      @move="move(row, $event)" @drag="dragged = row" @drop="dropOn(row)"
    />
    <CodeLine v-for="row in missing" :key="`missing ${row.code}`" :row="row" :most="most" :actions="actions" :of="page.ids.length" />
    <LooseLine
      v-for="row in loose.slice(0, shownLoose)" :key="`loose ${row.reading} ${row.code}`" :row="row" :most="most"
      :lines="lines" :of="page.ids.length" :kept="keptEntries.get(row.code)" :actions="actions" @accept="emit('accept', row)"
    />
    <p v-if="loose.length > shownLoose" class="more">
      <button class="act" @click="shownLoose += 40">Show {{ Math.min(40, loose.length - shownLoose) }} more</button>
      <span class="soft"> of {{ page.table.row_count - lines.length - missing.length }} that are not listed</span>
    </p>
    <AddLines :page="page" :actions="actions" :loose="loose.filter((row) => !keptEntries.has(row.code))" @accept-all="emit('acceptAll', $event)" />
  </section>
</template>

<style scoped>
.head {
  display: grid;
  align-items: center;
  column-gap: 8px;
  font-size: 12px;
  color: var(--soft);
  padding-bottom: 4px;
  border-bottom: 1px solid var(--line);
}

.head button {
  min-height: 24px;
  color: var(--soft);
}

.head button:not(:disabled):hover {
  text-decoration: underline;
  text-underline-offset: 4px;
}

.lines {
  margin-bottom: 8px;
}

.head,
.lines :deep(.line) {
  grid-template-columns: 18px var(--code) minmax(104px, 1fr) minmax(80px, 0.5fr) 50px minmax(44px, 0.45fr);
}

.more {
  margin-top: 8px;
  font-size: 12.5px;
}
</style>
