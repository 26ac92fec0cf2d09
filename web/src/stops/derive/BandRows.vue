<script setup lang="ts">
/** Bands as rows: from where to where, what each is called and how many records it holds; ends and labels can be typed. */
import { computed } from 'vue'

import type { Schema } from '@/api/client'
import KeptInput from '@/parts/KeptInput.vue'
import { count } from '@/study/shown'
import type { Band } from './sentence'

const props = defineProps<{ bands: Band[]; table: Schema['OldByNewModel'] }>()
const emit = defineEmits<{ bands: [bands: Band[]]; cut: [at: number, value: number] }>()
const rows = computed(() => props.bands.map((band, at) => ({ band, side: props.table.new.find((each) => each.code === String(at + 1) && each.reading === 'valid') })))
const rest = computed(() => props.table.new.filter((each) => each.reading !== 'valid' && each.count))
function relabel(at: number, label: string): void {
  emit('bands', props.bands.map((each, number) => (number === at ? { ...each, label: label || null } : each)))
}
</script>

<template>
  <table class="rows">
    <thead><tr><th scope="col">code</th><th scope="col">from</th><th scope="col">to</th><th scope="col">label</th><th scope="col" class="right">records</th></tr></thead>
    <tbody>
      <tr v-for="({ band, side }, at) in rows" :key="at">
        <th scope="row" class="mono">{{ at + 1 }}</th>
        <td class="mono">{{ band.low === null ? 'lowest' : `${band.above ? 'above ' : ''}${band.low}` }}</td>
        <td><template v-if="at < rows.length - 1"><span v-if="band.below" class="soft">below </span><KeptInput class="mono" :value="band.high" :keep="(text) => emit('cut', at, Number(text))" :aria-label="`Upper end of band ${at + 1}`" :data-test="`end-${at}`" /></template><span v-else class="mono">{{ band.high === null ? 'highest' : band.high }}</span></td>
        <td><KeptInput class="label" :value="band.label ?? side?.label" :keep="(text) => relabel(at, text)" :aria-label="`Label of band ${at + 1}`" :data-test="`band-label-${at}`" /></td>
        <td class="right">{{ count(side?.count ?? 0) }}</td>
      </tr>
      <tr v-for="each in rest" :key="`${each.reading}${each.code}`" class="soft"><th scope="row" class="mono">{{ each.code }}</th><td colspan="3">{{ each.reading === 'blank' ? 'blank' : each.reading === 'missing' ? `${each.label}, stays missing` : 'stays a stray' }}</td><td class="right">{{ count(each.count) }}</td></tr>
    </tbody>
  </table>
</template>

<style scoped>
.rows {
  border-collapse: collapse;
  margin-top: 12px;
  font-size: 13px;
  min-width: 620px;
}

.rows th,
.rows td {
  text-align: left;
  font-weight: 400;
  padding: 3px 18px 3px 0;
  border-bottom: 1px solid var(--line);
}

.rows .right {
  text-align: right;
  padding-right: 0;
}

.rows input {
  width: 76px;
  height: 26px;
  border: 1px solid var(--edge);
  border-radius: 5px;
  background: var(--white);
  padding: 0 7px;
}

.rows input.label {
  width: 240px;
}
</style>
