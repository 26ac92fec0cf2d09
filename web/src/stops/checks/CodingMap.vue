<script setup lang="ts">
/** Families of checks by variables: one look tells where the trouble is. */
import { computed } from 'vue'

import type { Schema } from '@/api/client'
import { useStudy } from '@/study/store'

const props = defineProps<{ report: Schema['CheckReport']; variable: string | null; family: string | null }>()
const emit = defineEmits<{ pick: [where: { variable: string | null; family: string | null }] }>()
const study = useStudy()
const width = computed(() => `${Math.min(27, Math.max(17, Math.floor(985 / Math.max(study.variables.length, 1))))}px`)
const SAID = { '': 'nothing', note: 'a note', warning: 'a warning', error: 'an error' } as const

const READY = { ready: 'nothing is open', accepted: 'what was found is accepted', open: 'something is open' } as const

function pick(variable: string, family: string): void {
  const same = props.variable === variable && props.family === family
  emit('pick', same ? { variable: null, family: null } : { variable, family })
}
</script>

<template>
  <div class="panel map scroll" data-wide tabindex="0" aria-label="Coding map" data-test="map" :style="{ '--wide': width }">
    <table>
      <thead>
        <tr>
          <td />
          <th v-for="each in study.variables" :key="each.id" scope="col"><span class="mono" :title="each.label">{{ each.name }}</span></th>
        </tr>
      </thead>
      <tbody>
        <tr>
          <th scope="row">ready</th>
          <td v-for="(state, index) in report.readiness" :key="index"><span class="mark ready" :class="state" :title="`${study.variables[index]?.name}: ${READY[state]}`" role="img" :aria-label="`${study.variables[index]?.name}: ${READY[state]}`"><i /></span></td>
        </tr>
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
  white-space: nowrap;
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
  height: 20px;
  padding: 3px 1.5px;
}

.mark i {
  display: block;
  height: 14px;
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

.ready i {
  width: 11px;
  height: 11px;
  margin: 2px auto;
  border-radius: 50%;
  background: none;
  border: 1.5px solid var(--edge);
  opacity: 1;
}

.ready.ready:not(.open, .accepted) i,
.ready.accepted i {
  background: var(--leaf);
  border-color: var(--leaf);
}

.ready.accepted i {
  box-shadow: inset 0 0 0 2.5px var(--white);
}

.on i {
  outline: 2px solid var(--ink);
  outline-offset: 1px;
}
</style>
