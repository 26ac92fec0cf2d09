<script setup lang="ts">
/** What was understood of the chosen lines, how that differs from the tags at hand, and taking it. */
import { refDebounced } from '@vueuse/core'
import { computed, toRef } from 'vue'

import { type AnyStep, api, got } from '@/api/client'
import { useAsked } from '@/study/asked'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { type Span, useSheets } from './sheets'
import LinesMeant from './LinesMeant.vue'
import { effectOf, saidOf, titleOf } from './words'

const props = defineProps<{ lines: Span; variables: string[] }>()
const emit = defineEmits<{ done: [] }>()
const study = useStudy()
const sheets = useSheets()

const settled = refDebounced(toRef(props, 'lines'), 120)
const found = useAsked(
  'lines',
  () => [sheets.id, settled.value, props.variables, study.stamp({ tags: props.variables, entries: props.variables, shelves: ['sheet', 'list'] })] as const,
  ([sheet_id, [first, last], variables]) =>
    got(api.POST('/api/studies/{study_id}/sheets/{sheet_id}/lines', { params: { path: { study_id: study.id, sheet_id } }, body: { first, last, variables } })),
)
const many = computed(() => props.lines[1] - props.lines[0] + 1)
const said = computed(() => saidOf(found.value?.parts ?? {}))
const title = computed(() => titleOf(found.value?.parts ?? {}))
const target = computed(() => (props.variables.length === 1 ? (study.byId.get(props.variables[0]!)?.name ?? '') : counted(props.variables.length, 'tag')))
const differing = computed(() => found.value?.differs[0]?.differences ?? [])
const others = computed(() => (found.value?.differs.length ?? 0) - 1)

async function apply(): Promise<void> {
  if (found.value?.step && (await study.take(found.value.step as AnyStep))) emit('done')
}
defineExpose({ apply })
</script>

<template>
  <div class="card" role="status" data-test="understood">
    <p v-if="found">
      <b>Understood from {{ counted(many, 'line') }}:</b>
      <template v-if="title"> “{{ title }}”<template v-if="said.length">, </template></template>
      {{ said.join(', ') }}<template v-if="!title && !said.length"> nothing. No label, code or limit stands in them.</template><template v-else>.</template>
    </p>
    <template v-if="found && variables.length && (title || said.length)">
      <p v-if="!differing.length"><b class="mono">{{ target }}</b> {{ variables.length > 1 ? 'agree' : 'agrees' }} with that.</p>
      <ul v-else>
        <li v-for="each in differing.slice(0, 4)" :key="each.key">
          {{ each.part }}: <b>{{ each.sheet }}</b><template v-if="!each.adds"> in place of {{ each.study }}</template>
          <span v-if="effectOf(each.effect)" class="effect">{{ effectOf(each.effect) }}</span>
        </li>
        <li v-if="differing.length > 4" class="soft">and {{ counted(differing.length - 4, 'more part') }}</li>
        <li v-if="others > 0" class="soft">likewise {{ counted(others, 'other tag') }}</li>
      </ul>
    </template>
    <LinesMeant :lines="lines" :variables="variables" :coded="said.length > 0" />
    <div class="do">
      <v-btn data-test="let-lines" @click="emit('done')">Let go <kbd>Esc</kbd></v-btn>
      <v-btn v-if="variables.length" variant="flat" color="primary" :disabled="!found?.step" title="Ctrl+Enter" data-test="apply-lines" @click="apply">Apply to {{ target }}</v-btn>
    </div>
  </div>
</template>

<style scoped>
.card {
  font-size: 13px;
  max-height: 46vh;
  overflow-y: auto;
}

ul {
  margin: 4px 0 0;
  padding: 0;
  list-style: none;
}

li {
  padding: 1px 0;
  overflow-wrap: anywhere;
}

.effect {
  margin-left: 6px;
  color: var(--leaf);
  white-space: nowrap;
}

.do {
  display: flex;
  justify-content: space-between;
  margin-top: 10px;
}

.do kbd {
  margin-left: 6px;
}
</style>
