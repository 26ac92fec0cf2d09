<script setup lang="ts">
/** What each column of a table of variables holds, as headings and contents tell it; changed where that is wrong. */
import type { Schema } from '@/api/client'

type Columns = Schema['TableSeen']['columns']
const props = defineProps<{ table: Schema['TableSeen'] }>()
const emit = defineEmits<{ read: [sheet: string, columns: Columns] }>()

const ROLES: Columns = [
  '', 'name', 'label', 'question', 'type', 'level', 'codes', 'code', 'code label', 'missing', 'limits', 'minimum', 'maximum', 'width', 'decimals', 'note',
]
const WORDS: Partial<Record<Columns[number], string>> = { '': 'left aside', codes: 'codes, all in one cell', code: 'one code a row', question: 'question wording' }

/** A part stands in one column: where it was before, the column is left aside. */
function choose(at: number, role: Columns[number]): void {
  emit('read', props.table.sheet ?? '', props.table.columns.map((each, column) => (column === at ? role : role && each === role ? '' : each)))
}
const value = (event: Event): string => (event.target as HTMLSelectElement).value
</script>

<template>
  <section class="columns" aria-label="Columns of the table" data-test="table-columns">
    <label v-if="table.sheets.length > 1" class="row"><span>sheet</span>
      <select :value="table.sheet" data-test="table-sheet" @change="emit('read', value($event), [])"><option v-for="each in table.sheets" :key="each">{{ each }}</option></select>
    </label>
    <label v-for="(head, at) in table.heads" :key="at" class="row" :class="{ soft: !table.columns[at] }" :title="table.rows.map((row) => row[at]).filter(Boolean).join('\n')">
      <span>{{ head || `column ${at + 1}` }}</span>
      <select :value="table.columns[at]" :data-test="`column-${at + 1}`" @change="choose(at, value($event) as Columns[number])">
        <option v-for="role in ROLES" :key="role" :value="role">{{ WORDS[role] ?? role }}</option>
      </select>
    </label>
  </section>
</template>

<style scoped>
.columns {
  flex: none;
  max-height: 34vh;
  overflow-y: auto;
  border: 1px solid var(--line);
  border-radius: 6px;
  padding: 4px 8px;
  font-size: 12.5px;
}

.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 148px;
  gap: 8px;
  align-items: center;
  min-height: 28px;
}

.row span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

select {
  height: 25px;
  border: 1px solid var(--edge);
  border-radius: 5px;
  background: var(--white);
  padding: 0 4px;
}
</style>
