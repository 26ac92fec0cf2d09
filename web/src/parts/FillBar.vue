<script setup lang="ts">
import { computed } from 'vue'

import type { FillCounts } from '@/api/client'
import { count } from '@/study/shown'

const props = defineProps<{ fill: Pick<FillCounts, (typeof KINDS)[number]>; height?: number }>()

const KINDS = ['valid', 'missing', 'blank', 'stray'] as const
const shares = computed(() => KINDS.map((kind) => ({ kind, value: props.fill[kind] })).filter((each) => each.value > 0))
const said = computed(
  () =>
    `${count(props.fill.valid)} valid, ${count(props.fill.missing)} coded missing, ` +
    `${count(props.fill.blank)} blank, ${count(props.fill.stray)} stray`,
)
</script>

<template>
  <span class="fill" role="img" :aria-label="said" :title="said" :style="{ height: `${height ?? 8}px` }">
    <i v-for="share in shares" :key="share.kind" :class="`share-${share.kind}`" :style="{ flexGrow: share.value }" />
  </span>
</template>

<style scoped>
.fill {
  display: inline-flex;
  gap: 1px;
  border: 1px solid var(--edge);
  background: var(--paper);
  border-radius: 1px;
  overflow: hidden;
}

.fill i {
  display: block;
  height: 100%;
  flex-basis: 0;
  min-width: 3px;
}
</style>
