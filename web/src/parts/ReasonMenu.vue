<script setup lang="ts">
import { REASONS } from '@/study/shown'

defineProps<{ word: string; label: string }>()
const emit = defineEmits<{ chosen: [reason: (typeof REASONS)[number]] }>()
</script>

<template>
  <v-menu>
    <template #activator="{ props: menu }">
      <button class="act" v-bind="menu" :aria-label="label" data-test="missing">{{ word }}</button>
    </template>
    <v-list density="compact" class="rt-menu">
      <v-list-subheader>missing, because …</v-list-subheader>
      <v-list-item v-for="reason in REASONS" :key="reason" :title="reason" :data-test="`reason-${reason}`" @click="emit('chosen', reason)" />
    </v-list>
  </v-menu>
</template>
