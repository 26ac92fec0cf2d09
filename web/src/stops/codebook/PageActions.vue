<script setup lang="ts">
/** What can be done with the chosen tags, each with its key. */
import { computed } from 'vue'

import { newId } from '@/api/client'
import { counted } from '@/study/shown'
import SheetSwitch from '@/sheet/SheetSwitch.vue'
import { useStudy } from '@/study/store'
import { useChosen } from './chosen'
import { usePanel } from './panel'
import { PANELS } from './panels'

const study = useStudy()
const chosen = useChosen()
const panel = usePanel()

const entries = computed(() =>
  chosen.ids.reduce((sum, id) => {
    const fill = study.byId.get(id)?.fill
    return sum + (fill ? fill.valid + fill.missing + fill.stray : 0)
  }, 0),
)

const copy = (): Promise<unknown> =>
  study.take({ do: 'copy variables', format: 1, entries: true, copies: Object.fromEntries(chosen.ids.map((id) => [id, newId().slice(0, 12)])) })
const remove = (): Promise<unknown> => study.take({ do: 'remove variables', format: 1, variables: chosen.ids })
</script>

<template>
  <div class="actions" role="toolbar" :aria-label="`What to do with ${counted(chosen.ids.length, 'tag')}`">
    <button v-for="each in PANELS" :key="each.name" :title="`${each.title} (${each.key.toUpperCase()})`" :data-test="`open-${each.name}`" @click="panel.open = each.name">{{ each.word }}</button>
    <button title="Copy with entries" data-test="copy" @click="copy">Copy</button>
    <button class="remove" :title="`Remove ${counted(chosen.ids.length, 'tag')} with ${counted(entries, 'entry', 'entries')}; undo brings them back (Delete)`" data-test="remove" @click="remove">Remove</button>
    <SheetSwitch />
  </div>
</template>

<style scoped>
.actions {
  display: flex;
  flex-wrap: wrap;
  padding: 6px 14px 6px 24px;
  border-bottom: 1px solid var(--line);
  background: var(--sheet);
}

button {
  min-height: 26px;
  padding: 0 6px;
  border-radius: 5px;
  font-size: 12.5px;
  color: var(--soil);
}

button:hover {
  background: var(--bed);
  color: var(--ink);
}

.remove {
  margin-left: auto;
}
</style>
