<script setup lang="ts">
/** Name, level, type, use and the rest of a tag in one line; each changes where it stands. */
import { computed, ref, watch } from 'vue'

import type { Problem, VariablePage } from '@/api/client'
import PartSelect from '@/parts/PartSelect.vue'
import TagMarks from '@/parts/TagMarks.vue'
import { LEVEL_SIGNS, LEVELS, TYPES, USES } from '@/study/shown'
import LimitsField from './LimitsField.vue'
import type { Page } from './page'

const props = defineProps<{ page: VariablePage; actions: Page }>()

const name = ref(props.page.tag.name)
const refused = ref<Problem | null>(null)
watch(
  [() => props.page.id, () => props.page.tag.name],
  () => {
    name.value = props.page.tag.name
    refused.value = null
  },
)

/** Width and marks in a few words. */
const written = computed(() => {
  const { type, width, decimals, marks } = props.page.tag
  const said = [width ? `width ${width}` : 'no width']
  if (type === 'decimal' && decimals !== null) said.push(`${decimals} decimals`)
  if ((type === 'integer' || type === 'decimal') && marks?.decimal === ',') said.push('decimal comma')
  if ((type === 'integer' || type === 'decimal') && marks?.sign) said.push(marks.sign)
  if ((type === 'date' || type === 'datetime') && marks) said.push({ ymd: 'year first', dmy: 'day first', mdy: 'month first' }[marks.date_order!])
  return said.join(', ')
})

async function rename(to: string): Promise<void> {
  if (to === props.page.tag.name) {
    refused.value = null
    return
  }
  refused.value = await props.actions.rename(to)
}

async function onEnter(): Promise<void> {
  const suggestion = refused.value?.suggestion
  if (suggestion && refused.value?.title.includes(`“${name.value}”`)) name.value = suggestion
  await rename(name.value)
}

function restore(): void {
  name.value = props.page.tag.name
  refused.value = null
}
</script>

<template>
  <div class="facts">
    <input
      v-model="name" class="name mono" aria-label="Name" spellcheck="false" data-test="name"
      :aria-invalid="refused !== null" :style="{ width: `${Math.max(name.length, 4) + 1}ch` }"
      @blur="refused || rename(name)" @keydown.enter.prevent="onEnter" @keydown.esc.prevent="restore"
    />
    <PartSelect :model-value="page.tag.level!" :options="LEVELS" label="Level of measurement" :sign="LEVEL_SIGNS[page.tag.level!]" data-test="level" @update:model-value="actions.define({ level: $event })" />
    <PartSelect :model-value="page.tag.type!" :options="TYPES" label="Type" data-test="type" @update:model-value="actions.define({ type: $event })" />
    <PartSelect :model-value="page.tag.use!" :options="USES" label="Use" data-test="use" @update:model-value="actions.define({ use: $event })" />
    <LimitsField v-if="page.tag.type !== 'text'" :limits="page.tag.limits!" @change="actions.define({ limits: $event })" />
    <v-menu :close-on-content-click="false">
      <template #activator="{ props: menu }">
        <button v-bind="menu" class="written" data-test="written" title="How entries are written, and how wide">{{ written }}</button>
      </template>
      <div class="panel box"><TagMarks :tag="page.tag" @choose="actions.define" /></div>
    </v-menu>
    <span v-if="page.source_name && page.first_name !== page.tag.name" class="soft">was {{ page.first_name }} in the source</span>
  </div>
  <p v-if="refused" class="refused" role="alert" data-test="refused-name">
    {{ refused.title }} <template v-if="refused.suggestion"><kbd>Enter</kbd> takes <b class="mono">{{ refused.suggestion }}</b>, <kbd>Esc</kbd> goes back.</template>
  </p>
</template>

<style scoped>
.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
  font-size: 13px;
  margin-bottom: 14px;
}

.name {
  font-weight: 650;
  font-size: 14px;
  min-height: 26px;
  padding: 1px 2px;
  border-bottom: 1.5px solid var(--leaf);
  outline: none;
}

.name:focus {
  background: var(--white);
}

.name[aria-invalid='true'] {
  border-color: var(--beet);
}

.written {
  min-height: 26px;
  border-bottom: 1.5px solid var(--line2);
}

.written:hover {
  border-color: var(--leaf);
}

.box {
  width: 300px;
  padding: 14px 16px;
}

.refused {
  margin: -6px 0 12px;
  color: var(--beet);
  font-size: 13px;
}
</style>
