<script setup lang="ts">
import { computed, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import EmptyStudy from '@/parts/EmptyStudy.vue'
import { useStudy } from '@/study/store'
import CodebookPage from './CodebookPage.vue'
import TagList from './TagList.vue'

const study = useStudy()
const route = useRoute()
const router = useRouter()
const chosen = computed(() => (route.params.variable as string | undefined) || null)

function choose(variable: string): void {
  void router.replace({ name: 'codebook', params: { study: study.id, variable } })
}

watch(
  () => [chosen.value, study.variables.length, route.name],
  () => {
    const first = study.variables[0]
    if (route.name === 'codebook' && first && (!chosen.value || !study.byId.has(chosen.value))) choose(first.id)
  },
  { immediate: true },
)
</script>

<template>
  <EmptyStudy v-if="!study.variables.length" />
  <div v-else class="stop">
    <TagList :chosen="chosen" @choose="choose" />
    <CodebookPage :variable="chosen" @choose="choose" />
  </div>
</template>

<style scoped>
.stop {
  display: flex;
  height: 100%;
}
</style>
