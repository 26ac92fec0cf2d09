<script setup lang="ts">
/** Names of many variables at once: by a pattern, or two columns of old and new names as they are pasted. */
import { computed, ref } from 'vue'

import { type AnyStep, api, got, type Schema } from '@/api/client'
import { useAsked } from '@/study/asked'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { useChosen } from './chosen'
import PanelShell from './PanelShell.vue'

const study = useStudy()
const chosen = useChosen()
const way = ref<'pattern' | 'pairs'>('pattern')
const all = ref(chosen.ids.length < 2)
const first = study.byId.get(chosen.ids[0] ?? '')?.name ?? ''
const old = ref(chosen.ids.length > 1 ? first.replace(/\d+$/, '{n}') : '')
const to = ref(old.value || '{x}')
const start = ref('')
const digits = ref('1')
const strip = ref('')
const letters = ref<Schema['NamePattern']['case']>('as it is')
const pairs = ref('')
/** Names that were put right by hand. */
const mended = ref<Record<string, string>>({})

const asked = computed<Schema['NamesRequest']>(() =>
  way.value === 'pairs'
    ? { variables: [], pattern: null, pairs: pairs.value }
    : {
        variables: all.value ? [] : chosen.ids,
        pairs: '',
        pattern: {
          old: old.value, new: to.value, strip: strip.value, case: letters.value,
          start: /^\d+$/.test(start.value) ? Number(start.value) : null,
          digits: Math.min(9, Math.max(1, Number(digits.value) || 1)),
        },
      },
)
const found = useAsked(
  'names',
  () => [study.id, asked.value, study.stamp({ tags: 'all', order: true })] as const,
  ([, body]) => got(api.POST('/api/studies/{study_id}/names', { params: { path: { study_id: study.id } }, body })),
)
const names = computed(() => found.value?.names ?? [])
const wrong = computed(() => names.value.filter((each) => each.problem && !mended.value[each.id]))
const step = computed<AnyStep | null>(() =>
  names.value.length && !wrong.value.length
    ? { do: 'rename', format: 1, names: Object.fromEntries(names.value.map((each) => [each.id, mended.value[each.id] ?? each.new])) }
    : null,
)
const why = computed(() =>
  wrong.value.length
    ? `${counted(wrong.value.length, 'name')} cannot be used yet: take what is offered, or change the pattern.`
    : 'No name would change.',
)
</script>

<template>
  <PanelShell title="Names" word="Rename" :step="step" :why="why" lead="Earlier names stay findable, and no reference breaks.">
    <div class="ways" role="radiogroup" aria-label="How to rename">
      <button role="radio" :aria-checked="way === 'pattern'" :class="{ on: way === 'pattern' }" @click="way = 'pattern'">by a pattern</button>
      <button role="radio" :aria-checked="way === 'pairs'" :class="{ on: way === 'pairs' }" data-test="way-pairs" @click="way = 'pairs'">old and new, pasted</button>
    </div>
    <div v-if="way === 'pattern'" class="fields">
      <label>names like <input v-model="old" class="mono" placeholder="{x}" spellcheck="false" data-test="old-pattern" /></label>
      <label>become <input v-model="to" class="mono" spellcheck="false" data-test="new-pattern" /></label>
      <label>number from <input v-model="start" placeholder="as found" inputmode="numeric" data-test="start" /></label>
      <label>digits <input v-model="digits" inputmode="numeric" /></label>
      <label>take off in front <input v-model="strip" class="mono" placeholder="nothing" spellcheck="false" data-test="strip" /></label>
      <label>letters
        <select v-model="letters"><option>as it is</option><option>lower</option><option>upper</option></select>
      </label>
      <label v-if="chosen.ids.length > 1" class="scope"><input v-model="all" type="checkbox" /> in the whole study, not only the {{ chosen.ids.length }} chosen</label>
    </div>
    <textarea v-else v-model="pairs" class="mono lines-to-type" rows="6" placeholder="q7_1&#9;site_1" aria-label="Old and new names, one pair a line" spellcheck="false" data-test="pairs" />
    <p v-if="way === 'pattern'" class="soft hint"><b class="mono">{n}</b> stands for a number, <b class="mono">{x}</b> for any text.</p>
    <p v-if="found?.unknown.length" class="beet hint" data-test="unknown">{{ counted(found.unknown.length, 'line') }} without a variable of that name: {{ found.unknown.slice(0, 4).join('; ') }}</p>
    <table v-if="names.length" data-test="new-names">
      <thead><tr><th>now</th><th>then</th><th /></tr></thead>
      <tbody>
        <tr v-for="each in names.slice(0, 300)" :key="each.id">
          <td class="mono">{{ each.old }}</td>
          <td class="mono" :class="{ beet: each.problem && !mended[each.id] }">{{ mended[each.id] ?? each.new }}</td>
          <td>
            <template v-if="each.problem && !mended[each.id]">
              {{ each.problem }} <button v-if="each.suggestion" class="act" @click="mended[each.id] = each.suggestion">take {{ each.suggestion }}</button>
            </template>
          </td>
        </tr>
      </tbody>
    </table>
  </PanelShell>
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 10px 16px;
  max-width: 700px;
}

.scope {
  grid-column: span 3;
  display: flex !important;
  align-items: center;
  gap: 6px !important;
}

.scope input {
  width: auto;
}
</style>
