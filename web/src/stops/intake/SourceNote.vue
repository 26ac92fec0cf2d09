<script setup lang="ts">
import { useStudy } from '@/study/store'
import { counted } from '@/study/shown'

const study = useStudy()
</script>

<template>
  <div class="empty" data-test="has-data">
    <h2>{{ counted(study.overview?.records ?? 0, 'record') }} are in this study</h2>
    <p>A study takes in one file. To bring in another, make a new study; to take this one in differently, go back in the Diary.</p>
    <v-btn variant="flat" color="primary" :to="{ name: 'codebook', params: { study: study.id } }">Go to the Codebook</v-btn>
    <v-btn to="/">All studies</v-btn>
  </div>
</template>
