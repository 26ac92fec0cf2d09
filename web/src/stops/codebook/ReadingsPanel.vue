<script setup lang="ts">
/** One variable under several types side by side: what each can read and what it cannot, before one is chosen. */
import { computed, ref } from 'vue'

import { type AnyStep, api, got, type Schema } from '@/api/client'
import FillBar from '@/parts/FillBar.vue'
import { useAsked } from '@/study/asked'
import { count, counted, TYPES } from '@/study/shown'
import { useStudy } from '@/study/store'
import { useChosen } from './chosen'
import { usePanel } from './panel'
import PanelShell from './PanelShell.vue'

const study = useStudy()
const chosen = useChosen()
const panel = usePanel()
const tag = computed(() => study.byId.get(chosen.first ?? ''))
const types = ref<Schema['TypeReading']['type'][]>([...new Set([tag.value?.type ?? 'text', 'integer', 'text'] as const)])
const found = useAsked(
  'readings',
  () => [chosen.first, types.value, study.stamp({ tags: [chosen.first ?? ''], entries: [chosen.first ?? ''], records: true })] as const,
  ([id, type]) =>
    id && type.length
      ? got(api.GET('/api/studies/{study_id}/variables/{variable_id}/readings', { params: { path: { study_id: study.id, variable_id: id }, query: { type } } }))
      : null,
)
const step = (each: Schema['TypeReading']): AnyStep =>
  ({ do: 'define', format: 1, variables: [chosen.first!], parts: { type: each.type, marks: each.marks } }) as AnyStep
</script>

<template>
  <PanelShell v-if="tag" :title="`How ${tag.name} reads`" lead="The same entries under several types. No entry changes, whatever you choose; codes, limits and missing codes stay as they are.">
    <div class="types">
      <label v-for="type in TYPES" :key="type"><input v-model="types" type="checkbox" :value="type" :data-test="`compare-${type}`" /> {{ type }}</label>
    </div>
    <div class="columns">
      <section v-for="each in found?.readings" :key="each.type" class="reading" :class="{ now: each.type === tag.type }" :data-test="`reading-${each.type}`">
        <h3>{{ each.type }} <span v-if="each.type === tag.type" class="soft">as it is now</span></h3>
        <FillBar :fill="each.fill" class="bar" />
        <dl>
          <div><dt>valid</dt><dd>{{ count(each.fill.valid) }}</dd></div>
          <div><dt>coded missing</dt><dd>{{ count(each.fill.missing) }}</dd></div>
          <div><dt>blank</dt><dd>{{ count(each.fill.blank) }}</dd></div>
          <div><dt>not allowed</dt><dd>{{ count(each.fill.unlisted) }}</dd></div>
          <div :class="{ beet: each.fill.unreadable }"><dt>unreadable</dt><dd>{{ each.fill.unreadable ? count(each.fill.unreadable) : 'none' }}</dd></div>
        </dl>
        <p v-if="each.unreadable.length" class="examples">{{ each.unreadable.map((entry) => `“${entry}”`).join(', ') }}</p>
        <v-btn v-if="each.type !== tag.type" :data-test="`take-${each.type}`" @click="panel.take(step(each))">Read as {{ each.type }}</v-btn>
        <p v-else class="soft">{{ counted(each.fill.valid + each.fill.missing, 'entry', 'entries') }} read</p>
      </section>
    </div>
  </PanelShell>
</template>

<style scoped>
.types {
  display: flex;
  flex-wrap: wrap;
  gap: 0 16px;
  margin-bottom: 14px;
  font-size: 13px;
}

.types label {
  display: flex;
  gap: 5px;
  align-items: center;
  min-height: 26px;
}

.columns {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(220px, 100%), 1fr));
  gap: 14px;
}

.reading {
  border: 1px solid var(--line2);
  border-radius: 8px;
  padding: 12px 14px;
  background: var(--sheet);
  font-size: 13px;
}

.reading.now {
  border-color: var(--leaf);
}

h3 {
  font-size: 15px;
  font-weight: 650;
  margin-bottom: 8px;
}

.bar {
  width: 100%;
}

dl {
  margin: 8px 0;
}

dl div {
  display: flex;
  justify-content: space-between;
  line-height: 22px;
}

dd {
  margin: 0;
}

.examples {
  margin-bottom: 10px;
  color: var(--beet);
  overflow-wrap: anywhere;
}

input {
  accent-color: var(--leaf);
}
</style>
