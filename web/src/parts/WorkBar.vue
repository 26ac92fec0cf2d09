<script setup lang="ts">
/** How far long work is, and a way to stop it. */
import type { Job } from '@/api/client'

defineProps<{ job: Job }>()
defineEmits<{ cancel: [] }>()
</script>

<template>
  <div class="work" role="status" data-test="work">
    <span class="doing">{{ job.what }} · {{ job.doing || 'starting' }}</span>
    <v-progress-linear :model-value="job.share * 100" color="leaf" height="8" rounded aria-label="Progress" />
    <v-btn data-test="cancel" @click="$emit('cancel')">Stop</v-btn>
  </div>
</template>

<style scoped>
.work {
  display: flex;
  align-items: center;
  gap: 14px;
  width: 100%;
}

.doing {
  white-space: nowrap;
  font-size: 13px;
}
</style>
