<script setup lang="ts">
/** Which variables are shown, in which order; and the views that are kept under a name. */
import { computed, nextTick, ref } from 'vue'

import VirtualList from '@/parts/VirtualList.vue'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { useRecordView } from './view'

const props = defineProps<{ purpose: 'grid' | 'keying' }>()
const study = useStudy()
const view = useRecordView()
const sought = ref('')
const name = ref(view.current?.shows.name ?? '')

const order = computed(() => {
  const picked = (view.variables ?? study.variables.map((tag) => tag.id)).filter((id) => study.byId.has(id))
  const rest = study.variables.map((tag) => tag.id).filter((id) => !picked.includes(id))
  return [...picked, ...rest]
})
const on = computed(() => new Set(view.variables ?? study.variables.map((tag) => tag.id)))
const shown = computed(() => {
  const text = sought.value.trim().toLowerCase()
  const tags = order.value.flatMap((id) => study.byId.get(id) ?? [])
  return text ? tags.filter((tag) => `${tag.name} ${tag.label}`.toLowerCase().includes(text)) : tags
})
const kept = computed(() => view.kept.filter((each) => each.shows.purpose === props.purpose))

function set(ids: string[]): void {
  const all = study.variables.map((tag) => tag.id)
  view.variables = ids.length === all.length && ids.every((id, at) => id === all[at]) ? null : ids
}
const toggle = (id: string): void => set(order.value.filter((each) => (each === id ? !on.value.has(id) : on.value.has(each))))
const only = (which: boolean): void => {
  const these = new Set(shown.value.map((tag) => tag.id))
  set(order.value.filter((id) => (these.has(id) ? which : on.value.has(id))))
}

async function move(id: string, by: number, event: KeyboardEvent): Promise<void> {
  const ids = order.value.filter((each) => on.value.has(each))
  const [from, field] = [ids.indexOf(id), event.target as HTMLElement]
  const to = from + by
  if (from < 0 || to < 0 || to >= ids.length) return
  ids.splice(to, 0, ...ids.splice(from, 1))
  set(ids)
  await nextTick()
  field.focus()
}

const dragged = ref<string | null>(null)
function drop(on: string): void {
  const ids = order.value.filter((id) => id !== dragged.value)
  if (dragged.value && dragged.value !== on) {
    ids.splice(ids.indexOf(on), 0, dragged.value)
    const there = new Set(view.variables ?? ids)
    set(ids.filter((id) => there.has(id) || id === dragged.value))
  }
  dragged.value = null
}

async function keep(): Promise<void> {
  if (name.value.trim()) await view.keep(name.value.trim(), props.purpose)
}
</script>

<template>
  <div class="panel views" role="dialog" aria-label="Variables that are shown" data-test="views">
    <div v-if="kept.length" class="kept">
      <h3>Kept views</h3>
      <div v-for="each in kept" :key="each.id" class="row">
        <button class="named" :class="{ here: each.id === view.chosen }" :data-test="`view-${each.shows.name}`" @click="view.use(each.id); name = each.shows.name">{{ each.shows.name }}</button>
        <span class="soft">{{ each.shows.variables?.length ? counted(each.shows.variables.length, 'variable') : 'all variables' }}</span>
        <button class="off" :aria-label="`Let the view ${each.shows.name} go`" @click="view.remove(each.id)">×</button>
      </div>
    </div>
    <div class="row">
      <input v-model="sought" class="find" placeholder="Find a variable" aria-label="Find a variable" data-test="view-find" />
      <button class="act" data-test="view-all" @click="sought ? only(true) : (view.variables = null)">{{ sought ? 'show these' : 'show all' }}</button>
      <button class="act" data-test="view-none" @click="only(false)">{{ sought ? 'hide these' : 'hide all' }}</button>
    </div>
    <VirtualList :items="shown" class="list scroll">
      <template #default="{ item: tag }">
        <label class="row tag" draggable="true" :data-test="`shows-${tag.name}`" @dragstart="dragged = tag.id" @dragover.prevent @drop.prevent="drop(tag.id)">
          <span class="grip" title="Drag, or Alt+↑ and Alt+↓">⠿</span>
          <input type="checkbox" :checked="on.has(tag.id)" @change="toggle(tag.id)" @keydown.alt.up.prevent="move(tag.id, -1, $event)" @keydown.alt.down.prevent="move(tag.id, 1, $event)" />
          <span class="mono">{{ tag.name }}</span> <span class="soft one">{{ tag.label }}</span>
        </label>
      </template>
    </VirtualList>
    <form class="row" @submit.prevent="keep">
      <input v-model="name" class="find" placeholder="Name of this view" aria-label="Name of this view" data-test="view-name" />
      <button class="act" :disabled="!name.trim()" data-test="keep-view" title="Variables, widths and which records, under this name">keep</button>
      <button v-if="view.chosen" type="button" class="act" data-test="no-view" @click="view.use(null); name = ''">leave this view</button>
    </form>
  </div>
</template>

<style scoped>
.views {
  width: 400px;
  padding: 14px 18px;
  font-size: 13px;
}

h3 {
  font-size: 13px;
  font-weight: 600;
  color: var(--soil);
}

.kept {
  margin-bottom: 10px;
}

.row {
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: 28px;
}

.named {
  font-weight: 600;
  min-height: 26px;
  text-align: left;
}

.named.here {
  color: var(--leaf);
}

.list {
  height: 300px;
  margin: 8px 0;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: var(--white);
}

.tag {
  padding: 0 10px;
}

.grip {
  color: var(--edge);
  cursor: grab;
}

.find {
  flex: 1;
  min-width: 0;
  height: 29px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 8px;
}

.off {
  margin-left: auto;
  width: 24px;
  height: 24px;
  font-size: 17px;
}

.one {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
