<script setup lang="ts">
/** The line at the foot of the window: what was said last, else when all was kept. It covers nothing; what was refused
 * may take more lines, for which the work above makes room. */
import { computed, watch } from 'vue'
import { useRoute } from 'vue-router'

import { notice } from '@/study/notices'
import { clock } from '@/study/shown'
import { useStudy } from '@/study/store'

/** A moment as the server writes it. */
const ISO = /\d{4}-\d{2}-\d{2}T[\d:.+]+/g
/** Milliseconds that something done, or refused, is told. */
const TOLD = { done: 8_000, refused: 30_000 }
const MOST_DETAILS = 6

const study = useStudy()
const route = useRoute()
/** What there is to say of what was kept, within a study that changes. */
const kept = computed(() => {
  const seen = route.params.study ? study.overview : null
  if (!seen || seen.edition) return ''
  return study.busy ? 'keeping …' : `kept ${clock(seen.kept_at)}`
})

let going = 0
watch(notice, (now) => {
  window.clearTimeout(going)
  if (now && !now.choices.length) going = window.setTimeout(() => (notice.value = null), TOLD[now.kind])
})

function take(go: () => void): void {
  notice.value = null
  go()
}
</script>

<template>
  <footer class="told" :class="notice?.kind">
    <div v-if="notice" class="said" :role="notice.kind === 'refused' ? 'alert' : 'status'" data-test="notice">
      <span>{{ notice.text }}</span>
      <ul v-if="notice.details.length">
        <li v-for="line in notice.details.slice(0, MOST_DETAILS)" :key="line">{{ line.replace(ISO, clock) }}</li>
      </ul>
    </div>
    <template v-if="notice">
      <button v-for="choice in notice.choices" :key="choice.word" class="act" :data-test="`choice-${choice.word}`" @click="take(choice.go)">{{ choice.word }}</button>
      <button v-if="!notice.choices.length" class="act" data-test="close-notice" @click="notice = null">Close</button>
    </template>
    <span class="kept soft" data-test="kept" role="status">{{ kept }}</span>
  </footer>
</template>

<style scoped>
.told {
  flex: none;
  display: flex;
  align-items: baseline;
  gap: 16px;
  min-height: 28px;
  padding: 3px 16px;
  border-top: 1px solid var(--line);
  background: var(--paper);
  font-size: 13px;
  line-height: 21px;
  position: relative;
  z-index: 2500; /* it is read beside a dialog, too */
}

.told.done {
  background: var(--leaf-pale);
}

.told.refused {
  background: var(--beet);
  color: #fff;
}

.told.refused :is(.act, .soft) {
  color: #fff;
}

.said {
  min-width: 0;
  max-height: 40vh;
  overflow-y: auto;
}

.act {
  line-height: 21px;
}

.kept {
  margin-left: auto;
  flex: none;
}

ul {
  margin: 0 0 0 16px;
  padding: 0;
  font-size: 12.5px;
}
</style>
