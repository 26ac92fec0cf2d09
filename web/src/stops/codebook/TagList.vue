<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import type { VVirtualScroll } from 'vuetify/components'

import type { TagStrip as Strip } from '@/api/client'
import TagStrip from '@/parts/TagStrip.vue'
import { useStudy } from '@/study/store'

const props = defineProps<{ chosen: string | null }>()
const emit = defineEmits<{ choose: [id: string] }>()
const study = useStudy()

const FILTERS: Record<string, (tag: Strip) => boolean> = {
  all: () => true,
  stray: (tag) => tag.fill.stray > 0,
  'no label': (tag) => !tag.label,
  proposed: (tag) => tag.proposed,
}
const filter = ref('all')
const text = ref('')
const field = ref<HTMLInputElement>()
const scroller = ref<VVirtualScroll>()

const counts = computed(() =>
  Object.entries(FILTERS).map(([name, holds]) => ({ name, number: study.variables.filter(holds).length })),
)
const tags = computed(() => {
  const sought = text.value.trim().toLowerCase()
  return study.variables
    .filter(FILTERS[filter.value] ?? (() => true))
    .filter((tag) => !sought || tag.name.toLowerCase().includes(sought) || tag.label.toLowerCase().includes(sought))
})

type Item = { title: string; number: number } | { tag: Strip }
const items = computed<Item[]>(() => {
  const out: Item[] = []
  let battery: string | null | undefined
  for (const tag of tags.value) {
    if (tag.battery !== battery) {
      battery = tag.battery
      const number = tags.value.filter((each) => each.battery === battery).length
      const title = battery ? `${study.overview?.batteries[battery] ?? 'Battery'} · battery of ${number}` : 'Single questions'
      out.push({ title, number })
    }
    out.push({ tag })
  }
  return out
})

function move(by: number): void {
  const at = tags.value.findIndex((tag) => tag.id === props.chosen)
  const next = tags.value[Math.min(Math.max(at + by, 0), tags.value.length - 1)]
  if (next) emit('choose', next.id)
}

async function show(): Promise<void> {
  await nextTick()
  const at = items.value.findIndex((item) => 'tag' in item && item.tag.id === props.chosen)
  const list = document.querySelector('[data-test="tags"]')
  const row = list?.querySelector('[aria-selected="true"]')
  if (row) row.scrollIntoView({ block: 'nearest' })
  else if (at >= 0) scroller.value?.scrollToIndex(at)
}

watch(() => props.chosen, show, { immediate: true })
useEventListener(window, 'keydown', (event) => {
  if ((event.target as HTMLElement).closest('input, textarea, select, [role="menu"]')) return
  if (event.key === '/') {
    event.preventDefault()
    field.value?.focus()
  }
})
</script>

<template>
  <aside class="tags" aria-label="Tags">
    <div class="find">
      <input ref="field" v-model="text" placeholder="Filter tags" aria-label="Filter tags by name or label" data-test="filter" @keydown.esc="text = ''" />
      <kbd>/</kbd>
    </div>
    <div class="chips">
      <button v-for="each in counts" :key="each.name" :class="{ on: filter === each.name }" :aria-pressed="filter === each.name" @click="filter = each.name">
        {{ each.name }} {{ each.number }}
      </button>
    </div>
    <p v-if="!tags.length" class="none soft">No tag matches. <button class="act" @click="((text = ''), (filter = 'all'))">Show all</button></p>
    <v-virtual-scroll
      ref="scroller" :items="items" class="list scroll" role="listbox" aria-label="Variables" tabindex="0" data-test="tags"
      @keydown.up.prevent="move(-1)" @keydown.down.prevent="move(1)"
    >
      <template #default="{ item }">
        <div v-if="'title' in item" class="group">{{ item.title }}<span>{{ item.number }}</span></div>
        <div
          v-else class="entry" role="option" :aria-selected="item.tag.id === chosen" :data-test="`tag-${item.tag.name}`"
          @click="emit('choose', item.tag.id)"
        >
          <TagStrip :tag="item.tag" :on="item.tag.id === chosen" />
        </div>
      </template>
    </v-virtual-scroll>
  </aside>
</template>

<style scoped>
.tags {
  width: 292px;
  flex: none;
  display: flex;
  flex-direction: column;
  background: var(--bed);
  border-right: 1px solid var(--line);
}

.find {
  margin: 10px 10px 8px;
  display: flex;
  align-items: center;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 9px;
}

.find:focus-within {
  border-color: var(--leaf);
  box-shadow: 0 0 0 1px var(--leaf);
}

.find input {
  flex: 1;
  height: 29px;
  font-size: 13px;
  outline: none;
}

.find input::placeholder {
  color: var(--soft);
  opacity: 1;
}

.chips {
  display: flex;
  gap: 4px;
  margin: 0 10px 4px;
  flex-wrap: wrap;
}

.chips button {
  font-size: 12px;
  line-height: 22px;
  border: 1px solid var(--line2);
  border-radius: 12px;
  padding: 0 7px;
  background: var(--paper);
  color: var(--soft);
}

.chips .on {
  border-color: var(--leaf);
  background: var(--leaf-pale);
  color: var(--ink);
}

.none {
  margin: 16px;
}

.list {
  flex: 1;
  min-height: 0;
  padding-bottom: 12px;
}

.list:focus-visible {
  outline-offset: -2px;
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
</style>
