<script setup lang="ts">
import { useSessionStorage } from '@vueuse/core'
import { computed, ref } from 'vue'

import { api, got } from '@/api/client'
import { orRefusal } from '@/api/refusal'
import { leave } from '@/frame/focus'
import EmptyStudy from '@/parts/EmptyStudy.vue'
import LevelSign from '@/parts/LevelSign.vue'
import { useChosen } from '@/stops/codebook/chosen'
import { useAsked } from '@/study/asked'
import { useStudy } from '@/study/store'
import BasisBar from './BasisBar.vue'
import ItemsCard from './ItemsCard.vue'
import TableCard from './TableCard.vue'
import { type Card, useWishes } from './wish'

const study = useStudy()
const { wished, ids, cards: wanted, views, of, set, setTogether, weight } = useWishes()
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
    views.length ? orRefusal(got(api.POST('/api/studies/{study_id}/views', { params: { path: { study_id } }, body: { views, only: only || null, weight } }))).then(([found, refused]) => ({ found, refused, cards })) : null,
)
/** A condition or a weight that cannot be: until it can there is nothing to show, least of all what was shown before. */
const refused = computed(() => looks.value?.refused ?? null)
const cards = computed(() => {
  const { found, cards = [] } = looks.value ?? {}
  const there = (card: Card): boolean => ('id' in card ? [card.id] : card.items).every((id) => ids.value.includes(id))
  return found ? cards.map((card, at) => ({ card, look: found.shown[at]! })).filter(({ card }) => there(card)) : []
})

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
      <BasisBar v-if="ids.length" v-model:only="wished.only" v-model:weight="wished.weight" :basis="looks?.found?.basis ?? null" />
      <section class="cards scroll" tabindex="-1">
        <p v-if="refused && ids.length" class="beet" role="alert" data-test="basis-refused">{{ refused.detail }}</p>
        <template v-for="{ card, look } in cards" :key="'id' in card ? card.id : card.battery">
          <TableCard v-if="'id' in card" :tag="study.byId.get(card.id)!" :wish="of(card.id)" :look="look" :together="card.out !== null" @set="set(card.id, $event)" @together="setTogether(card.out!, { apart: false })" />
          <ItemsCard v-else :title="study.overview?.batteries[card.battery] || 'Items'" :look="look" :sorted="card.sorted" @set="setTogether(card.battery, $event)" />
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
