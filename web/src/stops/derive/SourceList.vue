<script setup lang="ts">
/** What something can be made of, and what was derived so far. */
import { computed, ref } from 'vue'

import type { Schema } from '@/api/client'
import { leave } from '@/frame/focus'
import TagStrip from '@/parts/TagStrip.vue'
import VirtualList from '@/parts/VirtualList.vue'
import { matching } from '@/stops/codebook/find'
import { useStudy } from '@/study/store'

const props = defineProps<{ chosen: string | null; derived: Schema['DerivedVariable'][]; follows: boolean }>()
const emit = defineEmits<{ choose: [id: string]; again: []; follow: [on: boolean] }>()
const study = useStudy()
const text = ref('')
const made = computed(() => new Map(props.derived.map((each) => [each.id, each])))
const items = computed(() => {
  const found = matching(study.variables, text.value)
  const groups: { title: string; tags: typeof found }[] = []
  for (const tag of found.filter((each) => !made.value.has(each.id))) {
    const title = tag.battery ? (study.overview?.batteries[tag.battery] ?? 'Battery') : 'Single questions'
    if (groups.at(-1)?.title !== title) groups.push({ title, tags: [] })
    groups.at(-1)!.tags.push(tag)
  }
  const before = found.filter((each) => made.value.has(each.id))
  if (before.length) groups.unshift({ title: 'Derived so far', tags: before })
  return groups.flatMap((group) => [{ title: group.title, number: group.tags.length }, ...group.tags.map((tag) => ({ tag }))])
})
</script>

<template>
  <aside class="sources listing" aria-label="Made of">
    <input v-model="text" class="find boxed" placeholder="Made of …  filter tags" aria-label="Filter tags by name, label or wording" data-test="derive-filter" @keydown.esc.prevent.stop="((text = ''), leave())" />
    <p v-if="derived.some((each) => each.behind)" class="all"><button class="act" data-test="work-all-again" @click="emit('again')">recalculate everything out of date</button></p>
    <p v-if="derived.length" class="all"><label title="After every step what is derived from what it touched is recalculated; entries that you typed over it stay"><input type="checkbox" :checked="follows" data-test="follow" @change="emit('follow', ($event.target as HTMLInputElement).checked)" /> what is derived follows by itself</label></p>
    <VirtualList :items="items" class="list scroll" role="listbox" aria-label="Variables">
      <template #default="{ item }">
        <div v-if="'title' in item" class="group">{{ item.title }}<span>{{ item.number }}</span></div>
        <div v-else class="entry" role="option" tabindex="0" :aria-selected="item.tag.id === chosen" :data-test="`source-${item.tag.name}`" @click="emit('choose', item.tag.id)" @keydown.enter="emit('choose', item.tag.id)">
          <TagStrip :tag="item.tag" :on="item.tag.id === chosen" />
          <p v-if="made.get(item.tag.id)?.behind" class="behind beet" data-test="behind">its sources have changed</p>
        </div>
      </template>
    </VirtualList>
  </aside>
</template>

<style scoped>
.sources {
  width: 272px;
  flex: none;
  display: flex;
  flex-direction: column;
  background: var(--bed);
  border-right: 1px solid var(--line);
}

.find {
  margin: 10px;
}

.list {
  flex: 1;
  min-height: 0;
}

.group {
  display: flex;
  justify-content: space-between;
  padding: 9px 14px 3px;
  font-size: 12px;
  font-weight: 650;
  color: var(--soil);
}

.group span {
  font-weight: 400;
  color: var(--soft);
}

.entry {
  padding: 1.5px 10px;
  cursor: pointer;
}

.all {
  margin: 0 14px 4px;
  font-size: 13px;
}

.behind {
  font-size: 12px;
  padding-left: 36px;
}
</style>
