<script setup lang="ts">
/** Name, level, type, use and the rest of a tag in one line; each changes where it stands. */
import { computed, ref, watch } from 'vue'

import type { CodebookPage } from '@/api/client'
import type { Problem } from '@/api/refusal'
import PartSelect from '@/parts/PartSelect.vue'
import TagMarks from '@/parts/TagMarks.vue'
import { counted, LEVEL_SIGNS, LEVELS, PATTERNS, TYPES, USES } from '@/study/shown'
import LimitsField from './LimitsField.vue'
import type { Page } from './page'

const props = defineProps<{ page: CodebookPage; actions: Page }>()

const name = ref(props.page.tag.name)
const refused = ref<Problem | null>(null)
watch(
  [() => props.page.ids[0], () => props.page.tag.name],
  () => {
    name.value = props.page.tag.name
    refused.value = null
  },
)

const many = computed(() => props.page.ids.length > 1)
const differs = (...parts: string[]): boolean => parts.some((part) => props.page.differs.includes(part))

/** Parts that the type has no use for at present; they are kept, and count again under another. */
const resting = computed(() => {
  const { type, limits, decimals, marks, pattern } = props.page.tag
  const dates = type === 'date' || type === 'datetime'
  const said = []
  if (type === 'text' && (limits?.low || limits?.high)) said.push(`limits ${limits.low ?? ''} to ${limits.high ?? ''}`)
  if (type !== 'decimal' && decimals !== null) said.push(counted(decimals!, 'decimal'))
  if (type !== 'decimal' && type !== 'integer' && (marks?.decimal === ',' || marks?.thousands || marks?.sign)) said.push('number marks')
  if (!dates && (marks?.date_order !== 'ymd' || pattern !== 'yyyy-mm-dd')) said.push('order and pattern of dates')
  return said.join(', ')
})

/** Width and marks in a few words. */
const written = computed(() => {
  if (differs('width', 'decimals', 'marks', 'type')) return 'width and marks differ'
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
      v-if="!many" v-model="name" class="name mono" aria-label="Name" spellcheck="false" data-test="name"
      :aria-invalid="refused !== null" :style="{ width: `${Math.max(name.length, 4) + 1}ch` }"
      @blur="refused || rename(name)" @keydown.enter.prevent="onEnter" @keydown.esc.prevent="restore"
    />
    <PartSelect :model-value="page.tag.level!" :options="LEVELS" label="Level of measurement" :sign="LEVEL_SIGNS[page.tag.level!]" :differs="differs('level')" data-test="level" @update:model-value="actions.define({ level: $event })" />
    <PartSelect :model-value="page.tag.type!" :options="TYPES" label="Type" :differs="differs('type')" data-test="type" @update:model-value="actions.define({ type: $event })" />
    <PartSelect :model-value="page.tag.use!" :options="USES" label="Use" :differs="differs('use')" data-test="use" @update:model-value="actions.define({ use: $event })" />
    <LimitsField v-if="page.tag.type !== 'text'" :limits="page.tag.limits!" :differs="differs('limits')" @change="actions.define({ limits: $event })" />
    <v-menu :close-on-content-click="false">
      <template #activator="{ props: menu }">
        <button v-bind="menu" class="written" data-test="written" title="How entries are written, and how wide">{{ written }}</button>
      </template>
      <div class="panel box"><TagMarks :tag="page.tag" @choose="actions.define" /></div>
    </v-menu>
    <label v-if="page.tag.type === 'date' || page.tag.type === 'datetime'" class="shown soft">shown as
      <PartSelect :model-value="page.tag.pattern!" :options="PATTERNS" label="Date pattern" :differs="differs('pattern')" data-test="pattern" @update:model-value="actions.define({ pattern: $event })" />
    </label>
    <router-link v-if="page.derived" class="act mono derived cut" :to="{ name: 'derive', params: { variable: page.ids[0] } }" :title="`Derived: ${page.derived}`" data-test="derived-by">= {{ page.derived }}</router-link>
    <span v-if="page.former.length" class="soft" data-test="former">was {{ page.former.join(', ') }}</span>
    <span v-if="resting && !many" class="resting" title="Kept, and not in use under this type" data-test="resting">{{ resting }}: kept, not in use</span>
    <span v-if="page.longest && page.tag.width && page.needed_width > page.tag.width" class="beet" :title="page.longest">needs width {{ page.needed_width }}</span>
    <span v-else-if="!many && page.tag.width && page.needed_width < page.tag.width" class="soft">needs width {{ page.needed_width }} <button class="act" data-test="trim" @click="actions.define({ width: page.needed_width })">trim</button></span>
    <span v-if="page.decimals_found !== null && page.tag.decimals !== null && page.decimals_found !== page.tag.decimals" class="soft" data-test="decimals-found">entries have {{ counted(page.decimals_found, 'decimal') }}</span>
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

.resting {
  color: var(--dim);
  font-style: italic;
}

.shown {
  display: inline-flex;
  gap: 6px;
  align-items: center;
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
