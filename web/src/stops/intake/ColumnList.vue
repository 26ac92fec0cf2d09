<script setup lang="ts">
/** All columns of the file as proposed tags; one is looked at closely, many are changed together. */
import { computed, ref } from 'vue'

import VirtualList from '@/parts/VirtualList.vue'
import { counted, TYPES } from '@/study/shown'
import ColumnRow from './ColumnRow.vue'
import type { Column, Intake } from './intake'

const props = defineProps<{ intake: Intake }>()
const find = ref('')
const { columns, choices, selected, kept } = props.intake

const shown = computed(() => {
  const wanted = find.value.trim().toLowerCase()
  if (!wanted) return columns.value
  return columns.value.filter(({ tag, head }) => [tag.name, tag.label, tag.question, head].some((text) => text?.toLowerCase().includes(wanted)))
})
const wants = (each: Column): boolean => Boolean(each.fill.stray || each.suspects.length || each.doubt)
const wanting = computed(() => kept.value.filter(wants).length)
let anchor = -1

/** A click selects one, Ctrl adds or takes away, Shift reaches from the last click. */
function pick(index: number, event: MouseEvent | KeyboardEvent): void {
  const number = shown.value[index]!.column
  if (event.shiftKey && anchor >= 0) {
    const [low, high] = [Math.min(anchor, index), Math.max(anchor, index)]
    const reach = shown.value.slice(low, high + 1).map((each) => each.column)
    void props.intake.select(event.ctrlKey ? [...selected.value, ...reach] : reach)
    return
  }
  anchor = index
  if (event.ctrlKey || event.metaKey) {
    const next = new Set(selected.value)
    if (!next.delete(number)) next.add(number)
    void props.intake.select(next)
  } else {
    const alone = selected.value.size === 1 && selected.value.has(number)
    void props.intake.select(alone ? [] : [number])
  }
}

function selectBy(event: Event): void {
  const list = event.target as HTMLSelectElement
  const by = list.value
  const wanted = shown.value.filter((each) => by === 'all' || (by === 'look' ? wants(each) : each.tag.type === by))
  void props.intake.select(wanted.map((each) => each.column))
  list.value = ''
}

function keys(event: KeyboardEvent): void {
  if (event.key === 'Escape') void props.intake.select([])
}
</script>

<template>
  <section class="list" aria-label="Columns as tags" @keydown="keys">
    <div class="intro">
      <b>{{ counted(columns.length, 'column') }} as tags.</b>
      <input v-model="find" class="find" placeholder="Find by name or wording" aria-label="Find columns" data-test="find-column" />
      <select class="find" value="" aria-label="Select columns" data-test="select-by" @change="selectBy">
        <option value="" disabled>Select …</option>
        <option value="all">all shown</option>
        <option value="look">those that want a look</option>
        <option v-for="type in TYPES" :key="type" :value="type">{{ type }}</option>
      </select>
      <span class="grow" />
      <span data-test="wanting">
        {{ kept.length - wanting }} read whole · <span class="beet">{{ counted(wanting, 'wants', 'want') }} a look</span>
      </span>
    </div>
    <VirtualList :items="shown" :height="52" class="columns" data-wide>
      <template #default="{ item, index }">
        <ColumnRow
          :column="item" :out="choices[item.column]?.leave_out ?? false" :on="selected.has(item.column)" :narrow="selected.size > 0"
          @choose="intake.choose([item.column], $event)" @pick="pick(index, $event)"
        />
      </template>
    </VirtualList>
  </section>
</template>

<style scoped>
.list {
  flex: 1 0 240px;
  min-height: 0;
  display: flex;
  flex-direction: column;
}

.intro {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
  padding: 10px 2px 6px;
  font-size: 13px;
  white-space: nowrap;
}

.find {
  height: 27px;
  min-width: 0;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 8px;
}

.find::placeholder {
  color: var(--dim);
  opacity: 1;
}

.columns {
  flex: 1;
  min-height: 0;
}
</style>
