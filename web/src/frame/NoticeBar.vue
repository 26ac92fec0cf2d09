<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import { notice } from '@/study/notices'
import { clock } from '@/study/shown'

/** A moment as the server writes it. */
const ISO = /\d{4}-\d{2}-\d{2}T[\d:.+]+/g

/** Pixels below it, so that it stands above the bars at the foot of a stop, whose buttons are wanted meanwhile. */
const ABOVE_BARS = 58

function take(go: () => void): void {
  notice.value = null
  go()
}

/** Each message has a bar of its own, so that one which replaces another is shown as long as one that comes alone. */
const count = ref(0)
watch(notice, (now) => now && (count.value += 1), { flush: 'sync' })

const open = computed({ get: () => notice.value !== null, set: (value) => value || (notice.value = null) })
</script>

<template>
  <v-snackbar
    :key="count"
    v-model="open"
    :timeout="notice?.choices.length ? -1 : notice?.kind === 'refused' ? 12000 : 4000"
    :color="notice?.kind === 'refused' ? 'beet' : 'rail'"
    location="bottom"
    :style="{ paddingBottom: `${ABOVE_BARS}px` }"
    :role="notice?.kind === 'refused' ? 'alert' : 'status'"
    data-test="notice"
  >
    <div>{{ notice?.text }}</div>
    <ul v-if="notice?.details.length" class="details">
      <li v-for="line in notice.details.slice(0, 6)" :key="line">{{ line.replace(ISO, clock) }}</li>
    </ul>
    <template #actions>
      <v-btn v-for="choice in notice?.choices" :key="choice.word" variant="text" color="white" :data-test="`choice-${choice.word}`" @click="take(choice.go)">{{ choice.word }}</v-btn>
      <v-btn v-if="!notice?.choices.length" variant="text" color="white" @click="open = false">Close</v-btn>
    </template>
  </v-snackbar>
</template>

<style scoped>
.details {
  margin: 6px 0 0 16px;
  font-size: 12.5px;
}
</style>
