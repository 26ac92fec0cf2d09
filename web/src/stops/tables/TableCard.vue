<script setup lang="ts">
/** One variable as it is looked at: alone or by another, with what can be changed of that, and taken along. */
import { computed, useTemplateRef } from 'vue'

import type { Schema, TagStrip } from '@/api/client'
import { useStudy } from '@/study/store'
import { copyCard } from './copied'
import CrossTable from './CrossTable.vue'
import GroupsTable from './GroupsTable.vue'
import LeftOut from './LeftOut.vue'
import VariableCard from './VariableCard.vue'
import { measured, type Percent, type Wish } from './wish'

const props = defineProps<{ tag: TagStrip; wish: Wish; look: Schema['ViewsReply']['shown'][number]; together: boolean }>()
const emit = defineEmits<{ set: [change: Wish]; together: [] }>()
const study = useStudy()
const card = useTemplateRef<HTMLElement>('card')

const others = computed(() => study.variables.filter((each) => each.id !== props.tag.id && each.use !== 'identifier' && each.type !== 'text'))
const by = computed(() => (props.wish.by && study.byId.get(props.wish.by)) || null)
const called = (tag: TagStrip | null | undefined): string => tag?.label || tag?.name || ''
const title = computed(() => [called(props.tag), by.value && called(by.value)].filter(Boolean).join(' by '))
const ordered = computed(() => props.tag.level === 'ordinal' && ['integer', 'decimal'].includes(props.tag.type))
const crossed = computed(() => by.value && !measured(props.tag) && !props.wish.equalSteps)

const value = (event: Event): string => (event.target as HTMLSelectElement).value
const ticked = (event: Event): boolean => (event.target as HTMLInputElement).checked

async function copy(): Promise<void> {
  if (card.value) await copyCard(card.value, title.value)
}
</script>

<template>
  <section ref="card" class="panel card" :aria-label="title" :data-test="`table-${tag.name}`">
    <header>
      <h2>{{ called(tag) }}<template v-if="by"><span class="soft by">by</span>{{ called(by) }}</template> <span class="mono soft name">{{ tag.name }}<template v-if="by">, {{ by.name }}</template></span></h2>
      <div class="ways">
        <label>by <select :value="by?.id ?? ''" :aria-label="`${tag.name} by`" :data-test="`by-${tag.name}`" @change="emit('set', { by: value($event), within: '' })"><option value="">nothing</option><option v-for="each in others" :key="each.id" :value="each.id">{{ each.name }}</option></select></label>
        <template v-if="crossed">
          <label>within <select :value="wish.within ?? ''" :aria-label="`${tag.name} within`" :data-test="`within-${tag.name}`" @change="emit('set', { within: value($event) })"><option value="">nothing</option><option v-for="each in others.filter((other) => other.id !== by?.id)" :key="each.id" :value="each.id">{{ each.name }}</option></select></label>
          <select :value="wish.percent ?? 'column'" :aria-label="`Percent of ${tag.name}`" :data-test="`percent-${tag.name}`" @change="emit('set', { percent: value($event) as Percent })"><option value="column">column %</option><option value="row">row %</option><option value="total">total %</option></select>
          <label><input type="checkbox" :checked="wish.missing" :data-test="`missing-${tag.name}`" @change="emit('set', { missing: ticked($event) })" /> missing too</label>
        </template>
        <label v-if="by && ordered" title="An ordinal variable has a mean only where its codes are taken to be equally far apart"><input type="checkbox" :checked="wish.equalSteps" :data-test="`steps-${tag.name}`" @change="emit('set', { equalSteps: ticked($event) })" /> as equal steps</label>
        <button v-if="together && !by" class="act" @click="emit('together')">with its battery</button>
        <v-btn :data-test="`copy-${tag.name}`" title="As a table, for a document or a spreadsheet" @click="copy">Copy</v-btn>
      </div>
    </header>
    <p v-if="look.view !== 'distribution' && tag.question" class="ask">{{ tag.question }}</p>
    <VariableCard v-if="look.view === 'distribution'" :table="look" />
    <template v-else-if="look.view === 'refused'"><p class="beet" role="alert" data-test="refused-view">{{ look.title }} {{ look.detail }}</p></template>
    <template v-else>
      <CrossTable v-if="look.view === 'crosstab'" :table="look" />
      <GroupsTable v-else-if="look.view === 'groups'" :table="look" />
      <LeftOut v-if="'left' in look" :left="look.left" :inside="look.inside" />
    </template>
  </section>
</template>

<style scoped>
.card {
  padding: 16px 20px;
  margin-bottom: 18px;
}

header {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  align-items: start;
  justify-content: space-between;
}

h2 {
  font-size: 17px;
  font-weight: 650;
}

.by,
.name {
  font-weight: 400;
}

.by {
  margin: 0 5px;
}

.name {
  font-size: 13px;
  margin-left: 6px;
}

.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
  font-size: 13px;
}

.ways select {
  height: 28px;
  max-width: 150px;
  padding: 0 6px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
}

.ways label {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}

input {
  accent-color: var(--leaf);
}

.ask {
  font-family: var(--serif);
  color: var(--soil);
  margin: 2px 0 8px;
}
</style>
