<script setup lang="ts">
/** The stamp: parts of one tag, put onto others that are chosen beside it or swept over in the list. */
import { computed, onMounted, ref } from 'vue'

import type { AnyStep, Schema } from '@/api/client'
import TagStrip from '@/parts/TagStrip.vue'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { useChosen } from './chosen'
import PanelShell from './PanelShell.vue'

type Part = Schema['Stamp']['parts'][number]
const PARTS: { part: Part; word: string }[] = [
  { part: 'codes', word: 'code lines' },
  { part: 'list', word: 'complete or partial' },
  { part: 'missing', word: 'missing codes' },
  { part: 'type', word: 'type' },
  { part: 'level', word: 'level' },
  { part: 'use', word: 'use' },
  { part: 'limits', word: 'limits' },
  { part: 'width', word: 'width and decimals' },
  { part: 'marks', word: 'how entries are written' },
  { part: 'pattern', word: 'date pattern' },
  { part: 'battery', word: 'battery' },
]
const study = useStudy()
const chosen = useChosen()
const parts = ref<Part[]>(['codes', 'list', 'missing', 'type', 'level'])
const source = computed(() => study.byId.get(chosen.first ?? ''))
const onto = computed(() => study.variables.filter((each) => chosen.targets?.has(each.id)))

onMounted(() => (chosen.targets = new Set(chosen.ids.filter((id) => id !== chosen.first))))

const step = computed<AnyStep | null>(() =>
  source.value && onto.value.length && parts.value.length
    ? { do: 'stamp', format: 1, source: source.value.id, parts: parts.value, variables: onto.value.map((each) => each.id) }
    : null,
)
const WORDS: Record<string, string> = { code_list: 'shared list', complete: 'complete or partial' }
const said = (change: Schema['TagChange']): string => change.parts.map((part) => WORDS[part] ?? part).join(', ')
</script>

<template>
  <PanelShell
    v-if="source" v-slot="{ preview }" title="Stamp" word="Stamp" :step="step"
    :lead="`Puts parts of ${source.name} onto other tags. Click them in the list, sweep over several with the mouse held, or go with ↑ ↓ and press Space.`"
    why="Choose at least one part, and the tags that are to get it."
  >
    <fieldset class="parts">
      <legend>Parts</legend>
      <label v-for="each in PARTS" :key="each.part"><input v-model="parts" type="checkbox" :value="each.part" :data-test="`part-${each.part}`" /> {{ each.word }}</label>
    </fieldset>
    <h3>From</h3>
    <TagStrip :tag="source" class="strip" />
    <h3>Onto {{ counted(onto.length, 'tag') }}</h3>
    <p v-if="!onto.length" class="soft">None yet: choose them in the list at the left.</p>
    <div v-for="tag in onto" :key="tag.id" class="target">
      <TagStrip :tag="tag" class="strip" />
      <span class="soft what">{{ preview?.changes.find((each) => each.id === tag.id) ? `changes: ${said(preview.changes.find((each) => each.id === tag.id)!)}` : 'nothing changes' }}</span>
      <button class="act" :aria-label="`Leave ${tag.name} out`" @click="chosen.aim(tag.id, false)">leave out</button>
    </div>
  </PanelShell>
</template>

<style scoped>
.parts {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
  gap: 4px 12px;
  border: 0;
  padding: 0;
  margin: 0 0 14px;
  font-size: 13px;
}

.parts label {
  display: flex;
  gap: 6px;
  align-items: center;
  min-height: 26px;
}

legend {
  font-size: 13px;
  font-weight: 650;
  margin: 10px 0 4px;
}

.strip {
  width: 300px;
  flex: none;
}

.target {
  display: flex;
  gap: 14px;
  align-items: center;
  padding: 2px 0;
  font-size: 13px;
}

.what {
  flex: 1;
}

input {
  accent-color: var(--leaf);
}
</style>
