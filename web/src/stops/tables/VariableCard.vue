<script setup lang="ts">
/** The table that a variable's level allows: a frequency, or figures. */
import { dated } from '@/parts/dates'
import type { VariableTable } from '@/api/client'
import FillBar from '@/parts/FillBar.vue'
import HistogramBars from '@/parts/HistogramBars.vue'
import SummaryFigures from '@/parts/SummaryFigures.vue'
import { count, counted } from '@/study/shown'
import FrequencyTable from './FrequencyTable.vue'

defineProps<{ table: VariableTable }>()
</script>

<template>
  <div>
    <p v-if="table.question" class="ask">{{ table.question }}</p>
    <FrequencyTable v-if="table.coded" :table="table" />
    <template v-else>
      <HistogramBars v-if="table.histogram" :histogram="table.histogram" :span="table.span?.map((each) => dated(each, table.pattern)) ?? null" />
      <FrequencyTable v-if="table.rows.some((row) => row.listed && row.reading === 'valid')" :table="table" />
      <SummaryFigures v-if="table.summary" :summary="table.summary" :exact="table.exact" />
      <p v-if="table.span" class="soft">From {{ dated(table.span[0]!, table.pattern) }} to {{ dated(table.span[1]!, table.pattern) }}</p>
      <p v-if="table.commonest.length" class="soft">{{ counted(table.different, 'different entry', 'different entries') }}; the commonest: “{{ table.commonest[0]?.entry }}” ×{{ count(table.commonest[0]?.count ?? 0) }}</p>
      <p class="shares" data-foot>
        <FillBar :fill="table.fill" class="fill" /> {{ count(table.fill.valid) }} valid, {{ count(table.fill.missing) }} coded missing,
        {{ count(table.fill.blank) }} blank, {{ count(table.fill.stray) }} stray of {{ counted(table.records, 'record') }}
      </p>
    </template>
  </div>
</template>

<style scoped>
.ask {
  font: 400 14.5px/1.45 var(--serif);
  color: var(--soil);
  margin: 2px 0 8px;
}

.shares {
  font-size: 13px;
  color: var(--soft);
}

.fill {
  width: 120px;
  margin-right: 8px;
}
</style>
