<script setup lang="ts">
/** The first and last rows of the file as they stand; a click on a row's stub says what it is. */
import { computed } from 'vue'

import type { FileSeen, Settings } from './intake'
import { firstDataRow, leftOut, marked, type Role, roleOf, ROLES, rowsBelow } from './rows'

const MOST_ROWS = 40

const props = defineProps<{ file: FileSeen; foot: string[][]; below: number }>()
const emit = defineEmits<{ change: [change: Partial<Settings>] }>()

const settings = computed(() => props.file.settings)
const fixedHeads = computed(() => settings.value.kind === 'parquet')
const width = computed(() => Math.max(0, ...[...props.file.rows, ...props.foot].map((row) => row.length)))
const numeric = computed(() =>
  Array.from({ length: width.value }, (_, column) => {
    const body = props.file.rows.slice(firstDataRow(settings.value) - 1).map((row) => row[column] ?? '')
    const some = body.filter((cell) => cell.trim())
    return some.length > 0 && some.filter((cell) => /^\W{0,2}\d[\d.,]*$/.test(cell)).length > some.length / 2
  }),
)
/** A short file is shown whole; of a longer one the first rows, and the last ones as soon as they are read. */
const whole = computed(() => props.file.rows.length < MOST_ROWS)
const head = computed(() => (whole.value ? props.file.rows : props.file.rows.slice(0, Math.max(9, firstDataRow(settings.value) + 4))))
const foot = computed(() => (whole.value ? [] : props.foot))
const out = computed(() => leftOut(whole.value ? props.file.rows : props.foot, props.below))

const said = (index: number): string =>
  whole.value && out.value[index] && index >= firstDataRow(settings.value) ? 'left out' : (ROLES[roleOf(settings.value, index + 1) as Role] ?? '')
const looks = (index: number): string => (said(index) === 'left out' ? 'above' : roleOf(settings.value, index + 1))

const ROLE_WORDS = { names: 'names', wordings: 'wordings', data: 'data' } as const
const mark = (role: Role, row: number): void => emit('change', marked(settings.value, role, row))
const end = (rows: string[][], first: number): void => emit('change', { rows_below: rowsBelow(rows, first) })
</script>

<template>
  <div class="picture panel scroll" data-wide tabindex="0" aria-label="First and last rows of the file">
    <table data-test="picture">
      <tbody>
        <tr v-for="(row, index) in head" :key="index" :class="looks(index)">
          <th scope="row" :data-test="`stub-${index + 1}`">
            <span class="mono">{{ index + file.first_row }}</span>
            <span class="said">{{ said(index) }}</span>
            <span v-if="!fixedHeads" class="marks">
              <button
                v-for="(word, role) in ROLE_WORDS" :key="role" :aria-pressed="roleOf(settings, index + 1) === role"
                :aria-label="`Row ${index + file.first_row}: ${ROLES[role]}`" :data-test="`mark-${role}-${index + 1}`" @click="mark(role, index + 1)"
              >{{ word }}</button>
              <button
                v-if="whole && index >= firstDataRow(settings)" :data-test="`mark-end-${index + 1}`"
                :aria-label="out[index] ? `Row ${index + file.first_row}: data to here` : `Row ${index + file.first_row}: leave out from here`"
                @click="end(head, out[index] ? index + 1 : index)"
              >{{ out[index] ? 'take' : 'out' }}</button>
            </span>
          </th>
          <td v-for="column in width" :key="column" :class="{ right: numeric[column - 1] && index + 1 >= firstDataRow(settings) }" :title="row[column - 1]">
            {{ row[column - 1] }}
          </td>
        </tr>
        <tr v-if="foot.length" class="gap"><th scope="row"><span class="mono">⋮</span></th><td :colspan="width">and so on, to the last rows</td></tr>
        <tr v-for="(row, index) in foot" :key="`foot-${index}`" :class="{ above: out[index] }">
          <th scope="row" :data-test="`foot-${index}`">
            <span class="mono">−{{ foot.length - index }}</span>
            <span class="said">{{ out[index] ? 'left out' : '' }}</span>
            <span v-if="!fixedHeads" class="marks">
              <button v-if="out[index]" :data-test="`take-${index}`" :aria-label="`Data to the row ${foot.length - index} from the end`" @click="end(foot, index + 1)">data to here</button>
              <button v-else :data-test="`end-${index}`" :aria-label="`Leave out the last ${foot.length - index} rows`" @click="end(foot, index)">leave out from here</button>
            </span>
          </th>
          <td v-for="column in width" :key="column" :class="{ right: numeric[column - 1] }" :title="row[column - 1]">{{ row[column - 1] }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.picture {
  flex: none;
  max-height: 277px;
}

table {
  border-collapse: separate;
  border-spacing: 0;
  font-size: 13px;
}

th,
td {
  height: 29px;
  padding: 0 10px;
  border-right: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: pre;
  text-align: left;
}

td.right {
  text-align: right;
}

th {
  position: sticky;
  left: 0;
  z-index: 1;
  width: 200px;
  min-width: 200px;
  background: var(--bed);
  color: var(--soft);
  font-weight: 400;
}

th .mono {
  display: inline-block;
  width: 26px;
  text-align: right;
  margin-right: 10px;
  font-size: 12px;
}

.names th,
.wordings th,
.data th {
  background: var(--leaf-deep);
  color: #fff;
}

.names td {
  background: var(--leaf-pale);
  font-weight: 650;
}

.wordings td {
  font-family: var(--serif);
  background: var(--sheet);
}

.above td {
  background: var(--bed);
  color: var(--dim);
}

.gap td {
  color: var(--soft);
  font-style: italic;
  background: var(--bed);
}

/* What a row could be: shown where the pointer or the focus is, one click each. */
.marks {
  position: absolute;
  inset: 2px 2px 2px 40px;
  display: flex;
  gap: 2px;
  opacity: 0;
}

tr:hover .marks,
.marks:focus-within {
  opacity: 1;
}

.marks button {
  flex: 1 0 auto;
  padding: 0 3px;
  font-size: 12px;
  border-radius: 4px;
  background: var(--white);
  color: var(--ink);
  border: 1px solid var(--edge);
}

.marks button:hover,
.marks button[aria-pressed='true'] {
  background: var(--leaf-pale);
  border-color: var(--leaf);
}
</style>
