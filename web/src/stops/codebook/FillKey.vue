<script setup lang="ts">
import type { FillCounts } from '@/api/client'
import FillBar from '@/parts/FillBar.vue'
import { count } from '@/study/shown'

defineProps<{ fill: FillCounts }>()
const KINDS = { valid: 'valid', missing: 'coded missing', blank: 'blank', stray: 'stray' } as const
</script>

<template>
  <FillBar :fill="fill" :height="14" class="wide" />
  <div class="key" data-test="fill">
    <span v-for="(word, kind) in KINDS" :key="kind"><i :class="`share-${kind}`" /><b>{{ count(fill[kind]) }}</b> {{ word }}</span>
  </div>
</template>

<style scoped>
.wide {
  width: 100%;
  margin: 2px 0 5px;
}

.key {
  display: flex;
  gap: 18px;
  font-size: 12.5px;
  color: var(--soft);
  margin-bottom: 16px;
}

.key b {
  color: var(--ink);
  font-weight: 650;
}

.key i {
  display: inline-block;
  width: 10px;
  height: 10px;
  border: 1px solid var(--edge);
  margin-right: 5px;
  vertical-align: -1px;
}
</style>
