<script setup lang="ts">
/** The evidence of a tag without codes: how its numbers or dates are spread, or its commonest texts. */
import { computed } from 'vue'

import type { CodebookPage } from '@/api/client'
import { dated, dateOf, daysOf } from '@/parts/dates'
import HistogramBars from '@/parts/HistogramBars.vue'
import ReasonMenu from '@/parts/ReasonMenu.vue'
import SummaryFigures from '@/parts/SummaryFigures.vue'
import { count, counted, REASONS } from '@/study/shown'
import { useStudy } from '@/study/store'
import type { Page } from './page'

const props = defineProps<{ page: CodebookPage; actions: Page }>()
const study = useStudy()
const table = computed(() => props.page.table)
const tag = computed(() => props.page.tag)
const number = computed(() => tag.value.type === 'integer' || tag.value.type === 'decimal')
const span = computed(() => table.value.span?.map((each) => dated(each, tag.value.pattern!)) ?? null)
const said = computed(() => (tag.value.type === 'date' ? (days: number) => dated(dateOf(days), tag.value.pattern!) : undefined))

/** The limits as numbers for the handles; dates count in days. Other types have none. */
const limits = computed(() => {
  if (!number.value && tag.value.type !== 'date') return undefined
  const value = (end: string | null | undefined): number | null => (end == null ? null : number.value ? Number(end) : daysOf(end))
  return { low: value(tag.value.limits?.low), high: value(tag.value.limits?.high) }
})

function limit(to: { low: number | null; high: number | null }): void {
  const written = (end: number | null): string | null => (end === null ? null : number.value ? String(end) : dateOf(end))
  void props.actions.define({ limits: { low: written(to.low), high: written(to.high) } })
}

const aside = (entry: string, reason: (typeof REASONS)[number]): Promise<unknown> =>
  study.take({ do: 'mark missing', format: 1, variables: props.page.ids, lines: [{ code: entry, low: null, high: null, reason, label: '' }] })
</script>

<template>
  <section class="measured">
    <HistogramBars v-if="table.histogram" :histogram="table.histogram" :span="span" :limits="limits" :whole="tag.type !== 'decimal'" :said="said" @limit="limit" />
    <p v-for="each in page.suspects" :key="each.entry" class="apart" :data-test="`apart-${each.entry}`">
      <b class="mono">{{ each.entry }}</b> {{ each.why }}: {{ counted(each.count, 'entry', 'entries') }}<template v-if="each.number">, left out of the picture</template>
      <ReasonMenu word="missing…" :label="`Set ${each.entry} aside as missing`" @chosen="aside(each.entry, $event)" />
    </p>
    <SummaryFigures v-if="table.summary" :summary="table.summary" :exact="table.exact" />
    <p v-if="span" class="span" data-test="span">From <b>{{ span[0] }}</b> to <b>{{ span[1] }}</b></p>
    <div v-if="table.commonest.length" class="texts" data-test="commonest">
      <h3 class="evidence-head">Commonest of {{ counted(table.different, 'different entry', 'different entries') }}</h3>
      <div v-for="each in table.commonest.slice(0, 8)" :key="each.entry" class="evidence-row">
        <span :title="each.entry">{{ each.entry }}</span><b>{{ count(each.count) }}</b>
      </div>
      <p class="soft span">Longest: {{ page.longest.trim().length }} characters<template v-if="tag.width">, width {{ tag.width }}</template></p>
    </div>
  </section>
</template>

<style scoped>
.measured {
  margin-bottom: 18px;
}

.span,
.apart {
  font-size: 13px;
}

.apart {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
</style>
