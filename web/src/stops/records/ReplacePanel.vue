<script setup lang="ts">
/** Find and replace in some variables or all: what would become of which entries is shown before it is one step. */
import { refDebounced } from '@vueuse/core'
import { computed, onMounted, reactive, ref, useTemplateRef } from 'vue'

import type { AnyStep, Schema } from '@/api/client'
import { orRefusal } from '@/api/refusal'
import { useAsked } from '@/study/asked'
import { say } from '@/study/notices'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'

/** The variables of the range that is chosen. */
const props = defineProps<{ variables: string[] }>()
const emit = defineEmits<{ close: [] }>()
const study = useStudy()
const first = useTemplateRef<HTMLInputElement>('first')
onMounted(() => first.value?.focus())

const wanted = reactive({ find: '', by: '', how: 'whole' as Schema['ReplaceFound']['how'], case: false, labels: false })
const everywhere = ref(false)
/** Somebody has said what is looked for: nothing typed may mean blanks, but only once something is to replace them. */
const asked = computed(() => wanted.find !== '' || (wanted.how === 'whole' && !wanted.labels && wanted.by !== ''))
const step = computed<AnyStep | null>(() => {
  const variables = everywhere.value ? study.variables.map((each) => each.id) : props.variables
  return asked.value && variables.length ? { do: 'replace found', format: 1, ...wanted, variables } : null
})
const settled = refDebounced(step, 250)
const looked = useAsked(
  'replace preview',
  () => [study.id, settled.value, study.revision] as const,
  ([, step]) => (step ? orRefusal(study.preview(step)) : null),
)
const preview = computed(() => (step.value ? (looked.value?.[0] ?? null) : null))
const refused = computed(() => (step.value && looked.value?.[1]?.detail) || '')
const found = computed(() => (preview.value?.account.evidence ?? []).filter((each) => study.byId.has(each.variable)))
const SHOWN = 12

const sumOf = (each: Schema['OldByNew']): number => each.pairs.reduce((sum, pair) => sum + pair.count, 0)
const shown = (text: string): string => (text.trim() ? text : 'blank')

const taking = ref(false)
async function take(): Promise<void> {
  if (!step.value || taking.value) return
  taking.value = true
  const outcome = await study.take(step.value).finally(() => (taking.value = false))
  if (outcome) say(outcome.sentence)
}
</script>

<template>
  <section class="replace" data-room aria-label="Find and replace" data-test="replace" @keydown.esc.stop.prevent="emit('close')" @keydown.ctrl.enter.stop.prevent="take">
    <div class="line">
      <label>Find <input ref="first" v-model="wanted.find" class="mono" :placeholder="wanted.how === 'whole' ? 'blanks' : ''" spellcheck="false" data-test="replace-find" /></label>
      <label>Replace by <input v-model="wanted.by" class="mono" :placeholder="wanted.how === 'whole' ? 'a blank' : 'nothing'" spellcheck="false" data-test="replace-by" /></label>
      <select v-model="wanted.how" aria-label="What is found" data-test="replace-how">
        <option value="whole">whole entries</option>
        <option value="part">a part of an entry</option>
        <option value="pattern">a pattern</option>
      </select>
      <label><input v-model="wanted.labels" type="checkbox" data-test="replace-labels" /> in labels</label>
      <label v-if="wanted.how !== 'whole'"><input v-model="wanted.case" type="checkbox" /> capitals count</label>
      <label><input v-model="everywhere" type="checkbox" data-test="replace-everywhere" /> in all variables, not only {{ counted(variables.length, 'chosen one') }}</label>
      <span class="grow" />
      <button class="off" aria-label="Close" title="Close (Esc)" @click="emit('close')">×</button>
    </div>
    <div class="found scroll">
      <table v-if="found.length" data-test="replace-found">
        <thead><tr class="soft"><th>variable</th><th class="number">entries</th><th>found</th><th /><th>becomes</th><th class="number">times</th></tr></thead>
        <tbody v-for="each in found" :key="each.variable">
          <tr v-for="(pair, at) in each.pairs.slice(0, SHOWN)" :key="pair.old">
            <th scope="row" class="mono">{{ at ? '' : study.byId.get(each.variable)?.name }}</th>
            <td class="number soft">{{ at ? '' : count(sumOf(each)) }}{{ !at && each.different > each.pairs.length ? ' and more' : '' }}</td>
            <td class="mono" :class="{ soft: !pair.old.trim() }">{{ shown(pair.old) }}</td><td>→</td>
            <td class="mono" :class="{ soft: !pair.new.trim() }">{{ shown(pair.new) }}</td><td class="number">{{ count(pair.count) }}</td>
          </tr>
          <tr v-if="each.different > SHOWN"><th /><td /><td colspan="4" class="soft">and {{ count(each.different - SHOWN) }} more different ones</td></tr>
        </tbody>
      </table>
      <p v-else-if="!step" class="soft">What would become of which entries is shown here first. Whole entries are compared as they are read: 8, 08 and 8.0 are one number.</p>
    </div>
    <div class="line">
      <p role="status" data-test="replace-status"><span v-if="refused" class="beet">{{ refused }}</span><template v-else>{{ preview?.sentence ?? '' }}</template></p>
      <span class="grow" />
      <v-btn variant="flat" color="primary" :disabled="!preview || refused !== ''" :loading="taking" data-test="replace-do" @click="take">Replace &nbsp;<kbd>Ctrl ↵</kbd></v-btn>
    </div>
  </section>
</template>

<style scoped>
.replace {
  flex: none;
  border-top: 1px solid var(--line2);
  background: var(--bed);
  padding: 10px 16px;
  font-size: 13px;
}

.line,
.line label {
  display: flex;
  align-items: center;
  gap: 8px;
}

.line {
  gap: 16px;
  min-height: 33px;
}

.line input:not([type]),
.line select {
  height: 31px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 8px;
}

.line input:not([type]) {
  width: 170px;
}

input[type='checkbox'] {
  width: 15px;
  height: 15px;
  accent-color: var(--leaf);
}

.found {
  height: 132px;
  margin: 8px 0;
  padding: 6px 10px;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: var(--white);
}

table {
  border-spacing: 0;
}

thead th {
  font-weight: 400;
}

th,
td {
  padding: 2px 14px 2px 0;
  text-align: left;
  max-width: 340px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.number {
  text-align: right;
}

.off {
  font-size: 18px;
  padding: 0 6px;
}
</style>
