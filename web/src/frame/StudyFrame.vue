<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { onBeforeUnmount, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { api, got } from '@/api/client'
import { attempt, say } from '@/study/notices'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import AppRail from './AppRail.vue'
import FinderBox from './FinderBox.vue'
import KeysPage from './KeysPage.vue'
import { useShortcuts } from './shortcuts'
import TopStrip from './TopStrip.vue'

const props = defineProps<{ study: string }>()
const open = useStudy()
watch(() => props.study, (id) => void open.open(id), { immediate: true })
onBeforeUnmount(open.close)
useShortcuts()
// What is not kept yet would go with the page: whoever leaves is asked.
useEventListener(window, 'beforeunload', (event) => open.busy > 0 && event.preventDefault())

const router = useRouter()
const reading = ref(false)
/** What can be read of a study that cannot be opened stands beside it as a study of its own. */
async function readWhatCanBe(): Promise<void> {
  reading.value = true
  const found = await attempt(() => got(api.POST('/api/studies/{study_id}/rescued', { params: { path: { study_id: props.study } } })))
  reading.value = false
  if (!found) return
  const { entry, steps, of } = found
  say(`${counted(entry.records, 'record')} of ${counted(entry.variables, 'variable')} could be read, with ${count(steps)} of the ${counted(of, 'step')} that are left of its diary.`)
  await router.push({ name: 'codebook', params: { study: entry.id } })
}
</script>

<template>
  <div class="frame">
    <AppRail />
    <div class="work">
      <TopStrip />
      <FinderBox />
      <KeysPage />
      <main data-room tabindex="-1">
        <router-view v-if="open.overview" />
        <div v-else-if="open.refused" class="empty" data-test="refused-study">
          <h2>This study cannot be opened</h2>
          <p>{{ open.refused }}</p>
          <v-btn variant="flat" color="primary" to="/">Studies and backups</v-btn>
          <v-btn data-test="open-again" @click="open.open(study)">Try again</v-btn>
          <v-btn data-test="read-what-can-be" :loading="reading" @click="readWhatCanBe">Read what can be read</v-btn>
          <p class="below">What can be read becomes a study of its own: the newest state that is whole, with the steps that led to it. This file is left as it is.</p>
        </div>
        <p v-else class="empty opening" role="status">The study is being opened …</p>
      </main>
    </div>
  </div>
</template>

<style scoped>
.below {
  margin-top: 24px;
}

/* Most are there before anybody would read it. */
.opening {
  animation: appear 0.2s 0.6s both;
}

@keyframes appear {
  from {
    opacity: 0;
  }
}

.frame {
  display: flex;
}

.work {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}

main {
  flex: 1;
  min-height: 0;
  position: relative;
}
</style>
