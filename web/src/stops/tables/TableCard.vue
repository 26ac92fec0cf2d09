<script setup lang="ts">
/** One variable as it is looked at: alone or by another, with what can be changed of that, and taken along. */
import { computed } from 'vue'

import type { TagStrip } from '@/api/client'
import { useStudy } from '@/study/store'
import CrossTable from './CrossTable.vue'
import GroupsTable from './GroupsTable.vue'
import LeftOut from './LeftOut.vue'
import VariableCard from './VariableCard.vue'
import ViewCard from './ViewCard.vue'
import { type AnyLook, measured, type Percent, type Wish } from './wish'

const props = defineProps<{ tag: TagStrip; wish: Wish; look: AnyLook; together: boolean }>()
const emit = defineEmits<{ set: [change: Wish]; together: [] }>()
const study = useStudy()

const others = computed(() => study.variables.filter((each) => each.id !== props.tag.id && each.use !== 'identifier' && each.use !== 'open-ended'))
const by = computed(() => (props.wish.by && study.byId.get(props.wish.by)) || null)
const called = (tag: TagStrip | null | undefined): string => tag?.label || tag?.name || ''
const title = computed(() => [called(props.tag), by.value && called(by.value)].filter(Boolean).join(' by '))
/** Names of what is called otherwise in the title. */
const names = computed(() => [props.tag, by.value].flatMap((tag) => (tag?.label ? [tag.name] : [])).join(', '))
const ordered = computed(() => props.tag.level === 'ordinal' && ['integer', 'decimal'].includes(props.tag.type))
const crossed = computed(() => by.value && !measured(props.tag) && !props.wish.equalSteps)

const value = (event: Event): string => (event.target as HTMLSelectElement).value
const ticked = (event: Event): boolean => (event.target as HTMLInputElement).checked
</script>

<template>
  <ViewCard :title="title" :name="tag.name" :data-test="`table-${tag.name}`">
    <template #title>{{ called(tag) }}<template v-if="by"><span class="soft by">by</span>{{ called(by) }}</template> <span class="mono soft name">{{ names }}</span></template>
    <template #ways>
        <label>by <select :value="by?.id ?? ''" :aria-label="`${tag.name} by`" :data-test="`by-${tag.name}`" @change="emit('set', { by: value($event), within: '' })"><option value="">nothing</option><option v-for="each in others" :key="each.id" :value="each.id">{{ each.name }}</option></select></label>
        <template v-if="crossed">
          <label>within <select :value="wish.within ?? ''" :aria-label="`${tag.name} within`" :data-test="`within-${tag.name}`" @change="emit('set', { within: value($event) })"><option value="">nothing</option><option v-for="each in others.filter((other) => other.id !== by?.id)" :key="each.id" :value="each.id">{{ each.name }}</option></select></label>
          <select :value="wish.percent ?? 'column'" :aria-label="`Percent of ${tag.name}`" :data-test="`percent-${tag.name}`" @change="emit('set', { percent: value($event) as Percent })"><option value="column">column %</option><option value="row">row %</option><option value="total">total %</option></select>
          <label><input type="checkbox" :checked="wish.missing" :data-test="`missing-${tag.name}`" @change="emit('set', { missing: ticked($event) })" /> missing too</label>
        </template>
        <label v-if="by && ordered" title="An ordinal variable has a mean only where its codes are taken to be equally far apart"><input type="checkbox" :checked="wish.equalSteps" :data-test="`steps-${tag.name}`" @change="emit('set', { equalSteps: ticked($event) })" /> as equal steps</label>
        <button v-if="together && !by" class="act" @click="emit('together')">with its battery</button>
    </template>
    <p v-if="look.view !== 'distribution' && tag.question" class="ask">{{ tag.question }}</p>
    <VariableCard v-if="look.view === 'distribution'" :table="look" />
    <p v-else-if="look.view === 'refused'" class="beet" role="alert" data-test="refused-view">{{ look.title }} {{ look.detail }}</p>
    <template v-else>
      <CrossTable v-if="look.view === 'crosstab'" :table="look" />
      <GroupsTable v-else-if="look.view === 'groups'" :table="look" />
      <LeftOut v-if="'left' in look" :left="look.left" :inside="look.inside" />
    </template>
  </ViewCard>
</template>

<style scoped>
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

.ask {
  font-family: var(--serif);
  color: var(--soil);
  margin: 2px 0 8px;
}
</style>
