<script setup lang="ts">
import type { Schema } from '@/api/client'
import { LEVEL_SIGNS } from '@/study/shown'

defineProps<{ level: Schema['TagStrip']['level'] }>()
</script>

<template>
  <span class="sign" role="img" :aria-label="level" :title="level">{{ LEVEL_SIGNS[level] }}</span>
</template>

<style scoped>
.sign {
  font-family: var(--mono);
  font-weight: 700;
  color: var(--soil);
}
</style>
