<script setup lang="ts">
/** Figures of a measured variable, or the commonest entries of a text. */
import type { VariableTable } from '@/api/client'
import HistogramBars from '@/parts/HistogramBars.vue'
import SummaryFigures from '@/parts/SummaryFigures.vue'
import { count, counted } from '@/study/shown'

defineProps<{ table: VariableTable }>()
</script>

<template>
  <section class="measured">
    <HistogramBars v-if="table.histogram" :histogram="table.histogram" :span="table.span" />
    <SummaryFigures v-if="table.summary" :summary="table.summary" />
    <p v-if="table.span" class="span" data-test="span">From <b>{{ table.span[0] }}</b> to <b>{{ table.span[1] }}</b></p>
    <div v-if="table.commonest.length" class="texts" data-test="commonest">
      <h3>Commonest of {{ counted(table.different, 'different entry', 'different entries') }}</h3>
      <div v-for="each in table.commonest.slice(0, 8)" :key="each.entry" class="text">
        <span :title="each.entry">{{ each.entry }}</span><b>{{ count(each.count) }}</b>
      </div>
    </div>
  </section>
</template>

<style scoped>
.measured {
  margin-bottom: 18px;
}

.span {
  font-size: 13px;
}

h3 {
  font-size: 13px;
  font-weight: 650;
  margin-bottom: 4px;
}

.text {
  display: flex;
  gap: 16px;
  justify-content: space-between;
  border-bottom: 1px solid var(--line);
  padding: 5px 2px;
  font-size: 13px;
}

.text span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
