<script setup lang="ts">
import { useStudy } from '@/study/store'

const study = useStudy()
</script>

<template>
  <div class="empty">
    <h2>Nothing has been brought in yet</h2>
    <p>Choose a file at the Intake; its variables and records then stand here.</p>
    <v-btn variant="flat" color="primary" :to="{ name: 'intake', params: { study: study.id } }">Go to the Intake</v-btn>
  </div>
</template>
