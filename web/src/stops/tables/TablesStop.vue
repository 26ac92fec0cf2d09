<script setup lang="ts">
import { useSessionStorage } from '@vueuse/core'
import { computed, ref } from 'vue'

import { api, got } from '@/api/client'
import { leave } from '@/frame/focus'
import EmptyStudy from '@/parts/EmptyStudy.vue'
import LevelSign from '@/parts/LevelSign.vue'
import { useChosen } from '@/stops/codebook/chosen'
import { useAsked } from '@/study/asked'
import { useStudy } from '@/study/store'
import VariableCard from './VariableCard.vue'

const study = useStudy()
const picked = useSessionStorage<string[]>(`row-tag-tables-${study.id}`, [])
const tags = useChosen()
/** The tag that was worked on when this was looked at last: another one is shown at once. */
const worked = useSessionStorage(`row-tag-tables-worked-${study.id}`, '')
if (tags.first && study.byId.has(tags.first) && tags.first !== worked.value) picked.value = [(worked.value = tags.first)]
const text = ref('')

const shown = computed(() => {
  const sought = text.value.trim().toLowerCase()
  return study.variables.filter((tag) => !sought || `${tag.name} ${tag.label}`.toLowerCase().includes(sought))
})
const ids = computed(() => picked.value.filter((id) => study.byId.has(id)))
const looks = useAsked(
  'tables',
  () => [study.id, ids.value, study.stamp({ tags: ids.value, entries: ids.value, shelves: ['list'], records: true })] as const,
  ([study_id, variables]) => {
    const views = variables.map((variable) => ({ view: 'distribution' as const, variable }))
    return views.length ? got(api.POST('/api/studies/{study_id}/views', { params: { path: { study_id } }, body: { views } })) : null
  },
)
const tables = computed(() => looks.value?.shown ?? [])

function toggle(id: string, event: MouseEvent | KeyboardEvent): void {
  const on = picked.value.includes(id)
  if (event.ctrlKey || event.metaKey || event.shiftKey) picked.value = on ? picked.value.filter((each) => each !== id) : [...picked.value, id]
  else picked.value = [id]
  if (picked.value.includes(id)) tags.only((worked.value = id))
}
</script>

<template>
  <EmptyStudy v-if="!study.variables.length" />
  <div v-else class="stop split">
    <aside class="listing">
      <input v-model="text" class="find boxed" placeholder="Filter" aria-label="Filter variables" @keydown.esc.prevent.stop="((text = ''), leave())" />
      <div class="list scroll" role="listbox" aria-multiselectable="true" aria-label="Variables">
        <button
          v-for="tag in shown" :key="tag.id" role="option" :aria-selected="ids.includes(tag.id)" :class="{ on: ids.includes(tag.id) }"
          :title="tag.label || tag.name" :data-test="`pick-${tag.name}`" @click="toggle(tag.id, $event)"
        ><LevelSign :level="tag.level" class="sign" /><span class="mono cut">{{ tag.name }}</span></button>
      </div>
      <p class="soft hint">Hold Ctrl to pick several.</p>
    </aside>
    <section class="cards scroll" tabindex="-1">
      <VariableCard v-for="table in tables" :key="table.id" :table="table" />
      <div v-if="!ids.length" class="empty">
        <h2>Pick a variable</h2>
        <p>Coded variables give a frequency table, measured ones their figures. Labels stand in the code list's order.</p>
      </div>
    </section>
  </div>
</template>

<style scoped>
.stop {
  display: flex;
  height: 100%;
}

aside {
  width: 204px;
  flex: none;
  display: flex;
  flex-direction: column;
  background: var(--bed);
  border-right: 1px solid var(--line);
  padding: 10px 0 0;
}

.find {
  margin: 0 10px 8px;
}

.list {
  flex: 1;
  min-height: 0;
}

.list button {
  display: flex;
  gap: 10px;
  width: calc(100% - 20px);
  margin: 0 10px;
  height: 26px;
  align-items: center;
  padding: 0 8px;
  font-size: 13px;
  text-align: left;
  border-left: 3px solid transparent;
  border-radius: 4px;
  overflow: hidden;
}

.list .on {
  background: var(--white);
  border-left-color: var(--leaf);
}

.sign {
  width: 12px;
  flex: none;
}

.hint {
  font-size: 12px;
  padding: 6px 12px 8px;
}

.cards {
  flex: 1;
  min-width: 0;
  padding: 18px 28px;
}
</style>
