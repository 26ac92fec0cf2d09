<script setup lang="ts">
import { usePreferredDark } from '@vueuse/core'
import { watchEffect } from 'vue'
import { useTheme } from 'vuetify'

import NoticeBar from '@/frame/NoticeBar.vue'
import { theme as chosen } from '@/study/theme'

const theme = useTheme()
const dark = usePreferredDark()
watchEffect(() => theme.change(chosen.value === 'dark' || (chosen.value !== 'light' && dark.value) ? 'dark' : 'light'))
</script>

<template>
  <v-app>
    <router-view />
    <NoticeBar />
  </v-app>
</template>
