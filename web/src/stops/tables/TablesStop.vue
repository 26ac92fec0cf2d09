<script setup lang="ts">
import { useSessionStorage } from '@vueuse/core'
import { computed, ref } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { leave } from '@/frame/focus'
import EmptyStudy from '@/parts/EmptyStudy.vue'
import LevelSign from '@/parts/LevelSign.vue'
import { useChosen } from '@/stops/codebook/chosen'
import { useAsked } from '@/study/asked'
import { useStudy } from '@/study/store'
import BasisBar from './BasisBar.vue'
import BatteryTable from './BatteryTable.vue'
import ItemsCard from './ItemsCard.vue'
import SeveralTable from './SeveralTable.vue'
import TableCard from './TableCard.vue'
import { type Together, useWishes } from './wish'

const study = useStudy()
const { wished, ids, cards: wanted, views, of, set, weight } = useWishes()
const picked = computed({ get: () => wished.value.picked, set: (picked) => (wished.value.picked = picked) })
const tags = useChosen()
/** The tag that was worked on when this was looked at last: another one is shown at once. */
const worked = useSessionStorage(`row-tag-tables-worked-${study.id}`, '')
if (tags.first && study.byId.has(tags.first) && tags.first !== worked.value) picked.value = [(worked.value = tags.first)]
const text = ref('')

const shown = computed(() => {
  const sought = text.value.trim().toLowerCase()
  return study.variables.filter((tag) => !sought || `${tag.name} ${tag.label}`.toLowerCase().includes(sought))
})
/** What the views look at; under a condition that may be anything. */
const stamp = computed(() => {
  const named = [...ids.value, ...ids.value.flatMap((id) => [of(id).by, of(id).within]), weight.value].filter((id): id is string => !!id && study.byId.has(id))
  const looked = wished.value.only ? ('all' as const) : named
  return study.stamp({ tags: looked, entries: looked, shelves: ['list'], records: true })
})
const looks = useAsked(
  'tables',
  () => [study.id, views.value, wished.value.only, weight.value, wanted.value, stamp.value] as const,
  ([study_id, views, only, weight, cards]) =>
    views.length ? got(api.POST('/api/studies/{study_id}/views', { params: { path: { study_id } }, body: { views, only: only || null, weight } })).then((found) => ({ ...found, cards })) : null,
)
const cards = computed(() => (looks.value?.cards ?? []).map((card, at) => ({ card, look: looks.value!.shown[at]! })).filter(({ card }) => ('id' in card ? ids.value.includes(card.id) : card.items.every((id) => ids.value.includes(id)))))
const titleOf = (battery: string): string => study.overview?.batteries[battery] || 'Items'
function saidOf(look: Schema['ViewsReply']['shown'][number]): string {
  if (look.view !== 'battery') return ''
  const against = look.items.filter((item) => item.against).map((item) => item.variable.label || item.variable.name)
  return [typeof look.alpha === 'number' ? `alpha ${look.alpha.toFixed(2)}` : '', against.length ? `${against.join(', ')} ${against.length === 1 ? 'runs' : 'run'} against the rest` : ''].filter(Boolean).join(' · ')
}
function battery(id: string, change: Together): void {
  wished.value.batteries = { ...wished.value.batteries, [id]: { ...wished.value.batteries[id], ...change } }
}

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
    <div class="views">
    <BasisBar v-if="ids.length" v-model:only="wished.only" v-model:weight="wished.weight" :basis="looks?.basis ?? null" />
    <section class="cards scroll" tabindex="-1">
      <template v-for="{ card, look } in cards" :key="'id' in card ? card.id : card.battery">
        <TableCard v-if="'id' in card" :tag="study.byId.get(card.id)!" :wish="of(card.id)" :look="look" :together="!!study.byId.get(card.id)!.battery && !!wished.batteries[study.byId.get(card.id)!.battery!]?.apart" @set="set(card.id, $event)" @together="battery(study.byId.get(card.id)!.battery!, { apart: false })" />
        <ItemsCard v-else-if="look.view === 'battery' || look.view === 'several'" :title="titleOf(card.battery)" :said="saidOf(look)" :sorted="card.sorted" :word="card.ticks ? 'by count' : 'by agreement'" @sort="battery(card.battery, { sorted: $event })" @apart="battery(card.battery, { apart: true })">
          <BatteryTable v-if="look.view === 'battery'" :table="look" />
          <SeveralTable v-else :table="look" />
        </ItemsCard>
        <section v-else-if="look.view === 'refused'" class="panel refused" data-test="refused-battery"><p>{{ titleOf(card.battery) }}: {{ look.title }} <button class="act" @click="battery(card.battery, { apart: true })">Look at them one by one</button></p></section>
      </template>
      <div v-if="!ids.length" class="empty">
        <h2>Pick a variable</h2>
        <p>Coded variables give a frequency table, measured ones their figures, in the code list's order; by another variable they give a crosstab, or figures for each group.</p>
      </div>
    </section>
    </div>
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

.refused {
  padding: 16px 20px;
  margin-bottom: 18px;
}

.views {
  flex: 1;
  min-width: 0;
  min-height: 0;
  display: flex;
  flex-direction: column;
}

.cards {
  flex: 1;
  min-width: 0;
  padding: 18px 28px;
}
</style>
