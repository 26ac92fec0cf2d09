<script setup lang="ts">
import { useInfiniteQuery } from '@tanstack/vue-query'
import { computed, watch } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { complainOf } from '@/study/notices'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import AmendPanel from './AmendPanel.vue'
import { useAmending } from './amending'
import DiaryRun from './DiaryRun.vue'

const study = useStudy()
const { data, error, refetch, fetchNextPage, hasNextPage, isFetchingNextPage } = useInfiniteQuery({
  queryKey: computed(() => ['diary', study.id, study.revision]),
  queryFn: ({ pageParam }) =>
    got(api.GET('/api/studies/{study_id}/diary', { params: { path: { study_id: study.id }, query: { before: pageParam } } })),
  initialPageParam: null as number | null,
  getNextPageParam: (page: Schema['DiaryPage']) => page.more,
  placeholderData: (before) => before,
})
watch(error, (found) => found && complainOf(found, () => void refetch()))
const pages = computed(() => data.value?.pages ?? [])
const runs = computed(() => pages.value.flatMap((page) => page.runs))
const amending = useAmending()
const { edits } = amending
const left = computed(() => runs.value.flatMap((run) => run.lines).filter((line) => !line.current).length)
</script>

<template>
  <div v-if="pages[0]" class="stop">
   <div class="story scroll" tabindex="-1">
    <header>
      <h2 class="title">Diary</h2>
      <span class="soft">{{ counted(pages[0].count, 'step') }}<template v-if="left">, {{ left }} of them not in the study as it is now</template></span>
    </header>
    <ol v-if="runs.length">
      <DiaryRun v-for="run in runs" :key="run.lines.at(-1)!.step_id" :run="run" :amending="amending" />
    </ol>
    <div v-else class="empty">
      <h2>No step yet</h2>
      <p>Everything that changes the study is told here in a sentence with its counts. Begin at the Intake.</p>
      <v-btn variant="flat" color="primary" :to="{ name: 'intake', params: { study: study.id } }">Go to the Intake</v-btn>
    </div>
    <button v-if="hasNextPage" class="act" :disabled="isFetchingNextPage" data-test="earlier" @click="fetchNextPage()">Show earlier steps</button>
   </div>
   <AmendPanel v-if="edits.length" :amending="amending" />
  </div>
</template>

<style scoped>
.stop {
  display: flex;
  height: 100%;
}

.story {
  flex: 1 1 50%;
  min-width: 0;
  padding: 16px 28px 40px;
}

header {
  display: flex;
  gap: 18px;
  align-items: baseline;
  margin-bottom: 14px;
}

ol {
  list-style: none;
  padding: 0;
  max-width: 1000px;
}
</style>
