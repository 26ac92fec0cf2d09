<script setup lang="ts">
import { onBeforeUnmount, watch } from 'vue'

import { useStudy } from '@/study/store'
import AppRail from './AppRail.vue'
import FinderBox from './FinderBox.vue'
import { useShortcuts } from './shortcuts'
import TopStrip from './TopStrip.vue'

const props = defineProps<{ study: string }>()
const open = useStudy()
watch(() => props.study, (id) => void open.open(id), { immediate: true })
onBeforeUnmount(open.close)
useShortcuts()
</script>

<template>
  <div class="frame">
    <AppRail />
    <div class="work">
      <TopStrip />
      <FinderBox />
      <main>
        <router-view v-if="open.overview" />
        <div v-else-if="open.refused" class="empty" data-test="refused-study">
          <h2>This study cannot be opened</h2>
          <p>{{ open.refused }}</p>
          <v-btn variant="flat" color="primary" to="/">Go to the studies and their backups</v-btn>
        </div>
      </main>
    </div>
  </div>
</template>

<style scoped>
.frame {
  display: flex;
  height: 100vh;
  min-width: 1100px;
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
