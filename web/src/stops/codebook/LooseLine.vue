<script setup lang="ts">
/** Something that occurs and is not listed, with the answers to it: list, missing, merge, keep. */
import { computed } from 'vue'

import type { TableRow } from '@/api/client'
import { count, counted } from '@/study/shown'
import CountBar from './CountBar.vue'
import type { Page } from './page'
import ReasonMenu from '@/parts/ReasonMenu.vue'

const props = defineProps<{ row: TableRow; most: number; lines: TableRow[]; of: number; kept: string | undefined; actions: Page }>()
const emit = defineEmits<{ accept: [] }>()
const wider = computed(() => props.actions.widened(props.row))
</script>

<template>
  <div class="line loose" :class="{ stray: row.reading === 'stray', kept }" :data-test="`loose-${row.code}`">
    <span />
    <span class="code line-code mono" :title="row.code">{{ row.code }}</span>
    <span class="answers">
      <em>{{ row.unreadable ? 'unreadable' : row.reading === 'stray' ? 'not allowed' : 'not listed' }}</em>
      <span v-if="kept" class="soft why" :title="kept">kept: {{ kept }}</span>
      <template v-else>
        <button v-if="wider" class="act" data-test="widen" @click="actions.define({ limits: wider })">widen the limits</button>
        <button v-else-if="!row.unreadable" class="act" data-test="list-it" @click="actions.list([{ row, label: '' }])">list it</button>
        <ReasonMenu word="missing…" :label="`Set ${row.code} aside as missing`" @chosen="actions.markMissing(row, $event)" />
        <v-menu v-if="lines.length">
          <template #activator="{ props: menu }"><button class="act" v-bind="menu" data-test="merge">merge into…</button></template>
          <v-list density="compact" class="rt-menu">
            <v-list-subheader>{{ counted(row.count, 'entry', 'entries') }} would become …</v-list-subheader>
            <v-list-item v-for="line in lines" :key="line.code" :title="`${line.code}  ${line.label}`" @click="actions.merge(row, line.code)" />
          </v-list>
        </v-menu>
        <button v-if="row.reading === 'stray' && of === 1" class="act" data-test="keep" @click="emit('accept')">keep as is…</button>
      </template>
    </span>
    <span class="count right"><small v-if="of > 1 && row.within! < of" class="soft" :title="`In ${row.within} of ${of} tags`">{{ row.within }}/{{ of }}</small> {{ count(row.count) }}</span>
    <span class="end"><CountBar :count="row.count" :most="most" :kind="row.reading === 'stray' ? 'stray' : 'valid'" /></span>
  </div>
</template>

<style scoped>
.line {
  display: grid;
  align-items: center;
  column-gap: 8px;
}

.loose {
  min-height: 32px;
  margin-top: 5px;
  border: 1px dashed var(--edge);
  border-radius: 5px;
}

.stray {
  border-color: var(--beet);
  background: var(--beet-wash);
}

.kept {
  border-color: var(--line2);
  background: transparent;
}

.stray:not(.kept) .code,
.stray:not(.kept) em {
  color: var(--beet);
}

.answers {
  grid-column: span 2;
  display: flex;
  flex-wrap: wrap;
  gap: 0 10px;
  align-items: baseline;
  white-space: nowrap;
  min-width: 0;
}

em {
  font-style: normal;
  font-size: 12px;
  color: var(--soft);
  min-width: 66px;
}

.why {
  min-width: 0;
  max-width: 100%;
  font-size: 12.5px;
  overflow: hidden;
  text-overflow: ellipsis;
}

.count {
  font-size: 13.5px;
}

.end {
  padding-right: 28px;
}
</style>
