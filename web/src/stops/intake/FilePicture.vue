<script setup lang="ts">
/** The first rows of the file as they stand; the stubs say what each row is taken for. */
import { computed } from 'vue'

import type { FileSeen } from './intake'

const props = defineProps<{ file: FileSeen }>()

const names = computed(() => props.file.settings.names_row ?? 0)
const width = computed(() => Math.max(0, ...props.file.rows.map((row) => row.length)))
const numeric = computed(() =>
  Array.from({ length: width.value }, (_, column) => {
    const body = props.file.rows.slice(names.value).map((row) => row[column] ?? '')
    const filled = body.filter((cell) => cell.trim())
    return filled.length > 0 && filled.filter((cell) => /^\W{0,2}\d[\d.,]*$/.test(cell)).length > filled.length / 2
  }),
)

function stub(number: number): string {
  if (number === names.value) return 'names here'
  return number === names.value + 1 ? 'data from here' : ''
}
</script>

<template>
  <div class="picture panel scroll" tabindex="0" aria-label="First rows of the file">
    <table data-test="picture">
      <tbody>
        <tr v-for="(row, index) in file.rows.slice(0, 9)" :key="index" :class="{ names: index + 1 === names }">
          <th scope="row" :class="{ marked: stub(index + 1) }"><span class="mono">{{ index + 1 }}</span> {{ stub(index + 1) }}</th>
          <td v-for="column in width" :key="column" :class="{ right: numeric[column - 1] && index + 1 !== names }" :title="row[column - 1]">
            {{ row[column - 1] }}
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.picture {
  flex: none;
  max-height: 292px;
}

table {
  border-collapse: collapse;
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
  min-width: 136px;
  background: var(--bed);
  color: var(--soft);
  font-weight: 400;
}

th.marked {
  background: var(--leaf-deep);
  color: #fff;
}

th .mono {
  display: inline-block;
  width: 26px;
  text-align: right;
  margin-right: 8px;
  font-size: 12px;
}

.names td {
  background: var(--leaf-pale);
  font-weight: 650;
}
</style>
