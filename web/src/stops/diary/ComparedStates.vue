<script setup lang="ts">
/** What differs between two states: variables with their values before and after, records, and the rest in words. */
import { computed } from 'vue'

import type { Schema } from '@/api/client'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'

const props = defineProps<{ compared: Schema['ComparedModel'] }>()
const study = useStudy()
const MOST = 12
const FEW = 8
const words = computed(() => {
  const found = props.compared
  return [
    found.came.length ? `${counted(found.came.length, 'variable')} more: ${listed(found.came)}` : '',
    found.gone.length ? `${counted(found.gone.length, 'variable')} less: ${listed(found.gone)}` : '',
    found.records_came ? `${counted(found.records_came, 'record')} more` : '',
    found.records_gone ? `${counted(found.records_gone, 'record')} less` : '',
    found.order ? 'the variables stand in another order' : '',
    ...found.items,
  ].filter(Boolean)
})
const listed = (names: string[]): string => names.slice(0, MOST).join(', ') + (names.length > MOST ? ' …' : '')
type Moved = Schema['VariableMoved']
const said = (each: Moved): string =>
  [
    each.entries ? counted(each.entries, 'entry', 'entries') : '',
    each.read_otherwise && !each.entries ? `${counted(each.read_otherwise, 'entry', 'entries')} read otherwise` : '',
  ].filter(Boolean).join('; ')
const called_part = (part: string): string => part.replace('_', ' ')
const entry = (text: string): string => (text.trim() ? text : 'blank')
/** Values that moved, with those that did not where they are few. */
function moved(each: Moved): Schema['BeforeAfter'][] {
  const found = each.values.filter((row) => row.before !== row.after)
  return found.length && each.values.length <= FEW ? each.values : found
}
function called({ value }: Schema['BeforeAfter']): string {
  if (value.reading === 'blank') return 'blank'
  if (value.different > 1 && !value.code) return value.low !== null ? `${value.low} to ${value.high}` : `${count(value.different)} ${value.reading === 'stray' ? 'strays' : 'values'}`
  const parts = study.show === 'codes' ? [value.code] : study.show === 'labels' && value.label ? [value.label] : [value.code, value.label]
  return [...parts, value.reading === 'stray' ? '(stray)' : ''].filter(Boolean).join(' ')
}
</script>

<template>
  <div class="compared" data-test="compared">
    <p v-if="compared.same" class="soft">Nothing differs.</p>
    <p v-for="each in words" :key="each">{{ each }}</p>
    <table v-for="each in compared.variables.slice(0, 30)" :key="each.id" class="plain" :data-test="`moved-${each.name}`">
      <thead><tr><th scope="col"><span class="mono">{{ each.name }}</span> <span class="soft">{{ said(each) }}</span></th><template v-if="moved(each).length"><th scope="col" class="right">before</th><th scope="col" class="right">after</th></template></tr></thead>
      <tbody v-if="each.parts.length">
        <tr v-for="part in each.parts" :key="part.part" class="part"><td colspan="3"><span class="soft">{{ called_part(part.part) }}</span> <del v-if="part.was">{{ part.was }}</del> <span v-if="part.now">{{ part.now }}</span></td></tr>
      </tbody>
      <tbody v-if="each.pairs.length && !moved(each).length">
        <tr v-for="pair in each.pairs" :key="`${pair.old} ${pair.new}`"><td colspan="3"><del>{{ entry(pair.old) }}</del> {{ entry(pair.new) }} <span class="soft">{{ counted(pair.count, 'record') }}</span></td></tr>
      </tbody>
      <tbody v-if="moved(each).length">
        <tr v-for="row in moved(each)" :key="`${row.value.reading}${row.value.code}`" :class="{ soft: row.value.reading !== 'valid', changed: row.before !== row.after }"><td>{{ called(row) }}</td><td class="right">{{ count(row.before) }}</td><td class="right">{{ count(row.after) }}</td></tr>
      </tbody>
    </table>
    <p v-if="compared.variables.length > 30" class="soft">and {{ compared.variables.length - 30 }} more variables</p>
  </div>
</template>

<style scoped>
.plain {
  margin-bottom: 10px;
}

p {
  font-size: 13px;
  margin: 0 0 6px;
}

.part td > * {
  display: inline-block;
  vertical-align: top;
  max-width: 44%;
  margin-right: 14px;
  white-space: pre-line;
}

.right {
  text-align: right;
  width: 76px;
}

.changed .right {
  font-weight: 650;
}
</style>
