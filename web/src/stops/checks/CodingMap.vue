<script setup lang="ts">
/** Families of checks by variables: one look tells where the trouble is. */
import { computed } from 'vue'

import type { Schema } from '@/api/client'
import { useStudy } from '@/study/store'

const props = defineProps<{ report: Schema['CheckReport']; variable: string | null; family: string | null }>()
const emit = defineEmits<{ pick: [where: { variable: string | null; family: string | null }] }>()
const study = useStudy()
const width = computed(() => `${Math.min(27, Math.max(19, Math.floor(1040 / Math.max(study.variables.length, 1))))}px`)
const SAID = { '': 'nothing', note: 'a note', warning: 'a warning', error: 'an error' } as const

function pick(variable: string, family: string): void {
  const same = props.variable === variable && props.family === family
  emit('pick', same ? { variable: null, family: null } : { variable, family })
}
</script>

<template>
  <div class="panel map scroll" tabindex="0" aria-label="Coding map" data-test="map" :style="{ '--wide': width }">
    <table>
      <thead>
        <tr>
          <td />
          <th v-for="each in study.variables" :key="each.id" scope="col"><span class="mono" :title="each.label">{{ each.name }}</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in report.map" :key="row.family">
          <th scope="row">{{ row.family }}</th>
          <td v-for="(mark, index) in row.marks" :key="index">
            <button
              v-if="mark" :class="['mark', mark, { on: variable === study.variables[index]?.id && family === row.family }]"
              :aria-label="`${study.variables[index]?.name}, ${row.family}: ${SAID[mark]}`" :title="`${study.variables[index]?.name}, ${row.family}: ${SAID[mark]}`"
              @click="pick(study.variables[index]!.id, row.family)"
            ><i /></button>
            <span v-else class="mark"><i /></span>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.map {
  padding: 8px 36px 12px 12px;
}

table {
  border-collapse: collapse;
}

thead th {
  height: 92px;
  position: relative;
  font-weight: 400;
  min-width: var(--wide);
}

thead span {
  position: absolute;
  left: calc(var(--wide) / 2 - 2px);
  bottom: 4px;
  transform: rotate(-48deg);
  transform-origin: 0 100%;
  white-space: nowrap;
  font-size: 12px;
  color: var(--soft);
  max-width: 112px;
  overflow: hidden;
  text-overflow: ellipsis;
}

tbody th {
  font-size: 12.5px;
  font-weight: 400;
  color: var(--soft);
  text-align: right;
  padding-right: 8px;
  position: sticky;
  left: 0;
  background: var(--white);
}

td {
  padding: 0;
}

.mark {
  display: block;
  width: var(--wide);
  height: 24px;
  padding: 4.5px 1.5px;
}

.mark i {
  display: block;
  height: 15px;
  border-radius: 2px;
  background: var(--bed);
  opacity: 0.7;
}

button.mark i {
  opacity: 1;
}

.error i {
  background: var(--beet);
}

.warning i {
  background: repeating-linear-gradient(135deg, var(--straw) 0 2.5px, var(--straw-pale) 2.5px 5px);
}

.note i {
  background: var(--edge);
}

.on i {
  outline: 2px solid var(--ink);
  outline-offset: 1px;
}
</style>
