<script setup lang="ts">
/** A source's entries as they came, whatever has been changed since. */
import { onMounted, shallowRef } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { attempt } from '@/study/notices'
import { count } from '@/study/shown'
import { useStudy } from '@/study/store'

const props = defineProps<{ source: Schema['SourceModel'] }>()
const PAGE = 100
const study = useStudy()
const page = shallowRef<Schema['OriginalRows'] | null>(null)

async function show(start: number): Promise<void> {
  const path = { study_id: study.id, source_id: props.source.id }
  const query = { start: Math.max(0, start), stop: Math.max(0, start) + PAGE }
  const found = await attempt(() =>
    got(api.GET('/api/studies/{study_id}/sources/{source_id}/rows', { params: { path, query } })),
  )
  if (found) page.value = found
}

onMounted(() => show(0))
</script>

<template>
  <p v-if="!page" class="soft wait">Reading {{ source.name }} …</p>
  <div v-else class="original" data-test="original">
    <div class="pages">
      <button class="act" :disabled="page.start === 0" @click="show(page.start - PAGE)">earlier</button>
      <span class="soft">{{ count(page.start + 1) }}–{{ count(page.start + page.rows.length) }} of {{ count(page.records) }}</span>
      <button class="act" :disabled="page.start + page.rows.length >= page.records" @click="show(page.start + PAGE)">later</button>
    </div>
    <div class="scroll" data-wide tabindex="0" aria-label="Entries as they came">
      <table>
        <thead><tr><th /><th v-for="(head, column) in page.heads" :key="column" scope="col">{{ head }}</th></tr></thead>
        <tbody>
          <tr v-for="(row, index) in page.rows" :key="index">
            <th scope="row" class="mono">{{ count(page.start + index + 1) }}</th>
            <td v-for="(cell, column) in row" :key="column" :title="cell">{{ cell }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.wait {
  padding: 8px 16px;
}

.original {
  border-top: 1px solid var(--line);
}

.pages {
  display: flex;
  gap: 12px;
  padding: 4px 16px;
  font-size: 12.5px;
}

.scroll {
  max-height: 300px;
}

table {
  border-collapse: collapse;
  font-size: 13px;
}

th,
td {
  height: 27px;
  padding: 0 10px;
  border: 1px solid var(--line);
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: pre;
  text-align: left;
}

th {
  background: var(--bed);
  font-weight: 600;
}

thead th {
  position: sticky;
  top: 0;
}
</style>
