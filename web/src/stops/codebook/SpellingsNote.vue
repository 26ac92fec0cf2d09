<script setup lang="ts">
/** Texts that are probably one and the same answer, with one action each to make them one. */
import { computed, ref } from 'vue'

import { api, type CodebookPage, got, type Schema } from '@/api/client'
import { useAsked } from '@/study/asked'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import type { Page } from './page'

const props = defineProps<{ page: CodebookPage; actions: Page }>()
const study = useStudy()
const most = ref(6)
const found = useAsked(
  'spellings',
  () => [props.page.ids.length === 1 && props.page.tag.type === 'text' ? props.page.ids[0]! : null, props.page.revision] as const,
  ([id]) => (id ? got(api.GET('/api/studies/{study_id}/variables/{variable_id}/spellings', { params: { path: { study_id: study.id, variable_id: id } } })) : null),
)
const groups = computed(() => found.value ?? [])
const unite = (each: Schema['Spellings']): Promise<unknown> => props.actions.replace(each.entries.slice(1), each.entries[0]!)
const others = (each: Schema['Spellings']): number => each.counts.slice(1).reduce((sum, number) => sum + number, 0)
</script>

<template>
  <section v-if="groups.length" class="spellings" data-test="spellings">
    <h3 class="evidence-head">{{ counted(groups.length, 'answer') }} spelled in several ways</h3>
    <div v-for="each in groups.slice(0, most)" :key="each.entries[0]" class="evidence-row">
      <span :title="each.entries.join('\n')">
        <template v-for="(entry, at) in each.entries.slice(0, 5)" :key="entry"><span v-if="at">, </span>“{{ entry }}” <small class="soft">{{ count(each.counts[at]!) }}</small></template>
      </span>
      <button class="act" :title="`Replaces ${counted(others(each), 'entry', 'entries')}`" :data-test="`unite-${each.entries[0]}`" @click="unite(each)">make {{ counted(others(each), 'entry', 'entries') }} “{{ each.entries[0] }}”</button>
    </div>
    <button v-if="groups.length > most" class="act" @click="most += 20">Show more</button>
  </section>
</template>

<style scoped>
.spellings {
  margin-bottom: 14px;
}
</style>
