<script setup lang="ts">
/** The files this study was made from; each can be looked at as it came, and fetched again. */
import { computed, ref } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { useAsked } from '@/study/asked'
import { bytes, counted, moment } from '@/study/shown'
import { useStudy } from '@/study/store'
import OriginalRows from './OriginalRows.vue'
import { SEPARATORS } from './intake'

type Source = Schema['SourceModel']

const study = useStudy()
const looked = ref('')
const found = useAsked(
  'sources',
  () => [study.id, study.stamp({ shelves: ['source'], order: true })] as const,
  ([study_id]) => got(api.GET('/api/studies/{study_id}/sources', { params: { path: { study_id } } })),
)
const sources = computed<Source[]>(() => found.value ?? [])

function howRead({ settings, encoding }: Source): string {
  if (settings.kind === 'workbook') return [settings.sheet ?? 'first sheet', settings.range].filter(Boolean).join(', ')
  if (settings.kind === 'delimited') return [settings.runs ? 'runs of spaces' : (SEPARATORS[settings.separator!] ?? `“${settings.separator}”`), encoding].join(', ')
  return settings.kind === 'fixed' ? `${counted(settings.fields?.length ?? 0, 'field')}, ${encoding}` : 'Parquet'
}
</script>

<template>
  <section v-if="sources.length" aria-label="Sources" data-test="sources">
    <h3>{{ counted(sources.length, 'source') }}</h3>
    <div class="panel">
      <div v-for="source in sources" :key="source.id" class="source" :data-test="`source-${source.name}`">
        <div class="line">
          <b class="cut" :title="source.name">{{ source.name }}</b>
          <span class="soft">{{ counted(source.records, 'record') }} · {{ bytes(source.size) }} · {{ howRead(source) }}</span>
          <span class="soft">{{ source.brought_at ? moment(source.brought_at) : '' }}</span>
          <span class="mono print" :title="`SHA-256 ${source.sha256}`">{{ source.sha256.slice(0, 12) }}</span>
          <button class="act" :aria-expanded="looked === source.id" data-test="look" @click="looked = looked === source.id ? '' : source.id">
            {{ looked === source.id ? 'close' : 'look at it as it came' }}
          </button>
          <a class="act" :href="`/api/studies/${study.id}/sources/${source.id}/file`" download>fetch the file</a>
        </div>
        <OriginalRows v-if="looked === source.id" :source="source" />
      </div>
    </div>
  </section>
</template>

<style scoped>
h3 {
  font-size: 15px;
  font-weight: 650;
  margin-bottom: 8px;
}

.source + .source {
  border-top: 1px solid var(--line);
}

.line {
  display: grid;
  grid-template-columns: minmax(140px, 1.2fr) 2fr 110px 110px auto auto;
  gap: 16px;
  align-items: center;
  padding: 8px 16px;
  font-size: 13px;
}

@media (max-width: 900px) {
  .line {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 16px;
  }
}

.print {
  font-size: 12px;
  color: var(--soft);
}
</style>
