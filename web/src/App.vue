<script setup lang="ts">
import { usePreferredDark } from '@vueuse/core'
import { watchEffect } from 'vue'
import { useRoute } from 'vue-router'
import { useTheme } from 'vuetify'

import { useFocusKept } from '@/frame/focus'
import NoticeBar from '@/frame/NoticeBar.vue'
import { theme as chosen } from '@/study/theme'

const route = useRoute()
useFocusKept(() => [route.name, route.params.study])

const theme = useTheme()
const dark = usePreferredDark()
watchEffect(() => theme.change(chosen.value === 'dark' || (chosen.value !== 'light' && dark.value) ? 'dark' : 'light'))
</script>

<template>
  <v-app>
    <div class="window">
      <router-view class="place" />
      <NoticeBar />
    </div>
  </v-app>
</template>

<style scoped>
.window {
  height: 100dvh;
  display: flex;
  flex-direction: column;
}

.place {
  flex: 1;
  min-height: 0;
}
</style>
