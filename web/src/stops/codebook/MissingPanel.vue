<script setup lang="ts">
/** Missing codes over many variables: what may stand for missing, where and how often, set aside in one step. */
import { computed, ref, watch } from 'vue'

import { type AnyStep, api, got, type Schema } from '@/api/client'
import { useAsked } from '@/study/asked'
import { count, counted, REASONS } from '@/study/shown'
import { attempt } from '@/study/notices'
import { useStudy } from '@/study/store'
import { useChosen } from './chosen'
import { codeLines } from './page'
import PanelShell from './PanelShell.vue'

type Reason = (typeof REASONS)[number]
interface Offer {
  key: string
  shown: string
  why: string
  line: Schema['MissingLine']
  counts: Record<string, number>
}

const study = useStudy()
const chosen = useChosen()
const all = ref(chosen.ids.length < 2)
const scope = computed(() => (all.value ? [] : chosen.ids))
const typed = ref('')
const own = ref<Schema['MissingLine'][]>([])
const taken = ref<Record<string, boolean>>({})
const reasons = ref<Record<string, Reason>>({})
const left = ref<Record<string, boolean>>({})
const open = ref<string | null>(null)
const path = computed(() => ({ study_id: study.id }))

const suspects = useAsked(
  'suspects',
  () => [study.id, scope.value, study.stamp({ tags: 'all', entries: 'all' })] as const,
  ([, variables]) => got(api.POST('/api/studies/{study_id}/missing/candidates', { params: { path: path.value }, body: { variables } })),
)
const occurring = useAsked(
  'occurring',
  () => [study.id, scope.value, own.value, study.stamp({ tags: 'all', entries: 'all' })] as const,
  ([, variables, lines]) =>
    lines.length ? got(api.POST('/api/studies/{study_id}/missing/occurrences', { params: { path: path.value }, body: { variables, lines } })) : null,
)

const offers = computed<Offer[]>(() => [
  ...own.value.map((line, number) => ({
    key: `own ${number}`,
    shown: line.code ?? `${line.low ?? ''} .. ${line.high ?? ''}`.trim(),
    why: 'typed here',
    line,
    counts: Object.fromEntries(
      Object.entries(occurring.value?.counts ?? {}).map(([id, counts]) => [id, counts[number] ?? 0]).filter(([, number]) => number),
    ) as Record<string, number>,
  })),
  ...(suspects.value?.candidates ?? []).map((each) => ({
    key: `${each.entry} ${each.why}`,
    shown: each.entry,
    why: each.why,
    line: { code: each.entry, low: null, high: null, reason: 'other', label: '' } as Schema['MissingLine'],
    counts: each.counts,
  })),
])
/** What words say by themselves; else somebody has to say it. */
const MEANT: Record<string, Reason> = { refused: 'refused', dk: "don't know", "don't know": "don't know", 'n/a': 'not applicable', 'not applicable': 'not applicable', 'not asked': 'not asked' }
const reasonOf = (offer: Offer): Reason => reasons.value[offer.key] ?? MEANT[offer.shown.toLowerCase()] ?? 'other'
const variablesOf = (offer: Offer): string[] => Object.keys(offer.counts).filter((id) => !left.value[`${offer.key} ${id}`])
const totalOf = (offer: Offer): number => variablesOf(offer).reduce((sum, id) => sum + (offer.counts[id] ?? 0), 0)

/** The lines that are being read, one after the other; nothing is set aside before they are there. */
const reading = ref(0)
let read: Promise<unknown> = Promise.resolve()

/** The field is free for the next line at once; what was refused comes back unless something else is typed. */
function add(): void {
  const text = typed.value
  if (!text.trim()) return
  typed.value = ''
  reading.value++
  read = read.then(async () => {
    const lines = await attempt(() => codeLines(text))
    if (lines) take(lines)
    else typed.value ||= text
    reading.value--
  })
}

function take(lines: Schema['TypedLine'][]): void {
  own.value = [
    ...own.value,
    ...lines.map(({ code, low, high, label = '', reason }): Schema['MissingLine'] => {
      const bare = label.toLowerCase() === reason
      return { code, low, high, label: bare ? '' : label, reason: reason ?? 'other' }
    }),
  ]
}
watch(own, (lines) => lines.forEach((line, number) => {
  taken.value[`own ${number}`] ??= true
  reasons.value[`own ${number}`] ??= line.reason ?? 'other'
}))

const step = computed<AnyStep | null>(() => {
  const marks = offers.value
    .filter((offer) => taken.value[offer.key] && variablesOf(offer).length)
    .map((offer) => ({ line: { ...offer.line, reason: reasonOf(offer) }, variables: variablesOf(offer) }))
  return marks.length && !reading.value ? ({ do: 'mark missing where', format: 1, marks } as AnyStep) : null
})
const name = (id: string): string => study.byId.get(id)?.name ?? ''
</script>

<template>
  <PanelShell
    title="Missing codes" word="Set aside" :step="step" why="Tick what stands for a missing answer, and say why it is missing."
    :lead="all ? 'What may stand for a missing answer anywhere in the study. Nothing is set aside before you say so.' : `Over the ${chosen.ids.length} chosen tags.`"
  >
    <div class="fields one">
      <label>another code, range or text
        <input v-model="typed" placeholder="99 refused   or   90 .. 99" spellcheck="false" data-test="own-missing" @keydown.enter.prevent="add" />
      </label>
      <label v-if="chosen.ids.length > 1" class="scope"><input v-model="all" type="checkbox" /> in the whole study</label>
    </div>
    <p v-if="suspects && !offers.length" class="soft">Nothing here looks like a missing code that is not set aside yet. Type one above if there is any.</p>
    <div v-for="offer in offers" :key="offer.key" class="offer" :class="{ on: taken[offer.key] }" :data-test="`offer-${offer.shown}`">
      <label class="what">
        <input v-model="taken[offer.key]" type="checkbox" />
        <b class="mono">{{ offer.shown }}</b>
        <span class="soft">{{ offer.why }}</span>
      </label>
      <select :value="reasonOf(offer)" :aria-label="`Why ${offer.shown} is missing`" :disabled="!taken[offer.key]" @change="reasons[offer.key] = ($event.target as HTMLSelectElement).value as Reason">
        <option v-for="reason in REASONS" :key="reason">{{ reason }}</option>
      </select>
      <span class="right">{{ counted(totalOf(offer), 'entry', 'entries') }}</span>
      <button class="act" :aria-expanded="open === offer.key" @click="open = open === offer.key ? null : offer.key">in {{ counted(variablesOf(offer).length, 'variable') }}</button>
      <div v-if="open === offer.key" class="where">
        <label v-for="(number, id) in offer.counts" :key="id">
          <input type="checkbox" :checked="!left[`${offer.key} ${id}`]" @change="left[`${offer.key} ${id}`] = !left[`${offer.key} ${id}`]" />
          <span class="mono">{{ name(String(id)) }}</span> <span class="soft">{{ count(number) }}</span>
        </label>
      </div>
    </div>
  </PanelShell>
</template>

<style scoped>
.one {
  display: flex;
  gap: 20px;
  align-items: end;
  margin-bottom: 12px;
}

.one > label:first-child {
  width: 320px;
}

.scope {
  display: flex !important;
  gap: 6px !important;
  align-items: center;
  min-height: 30px;
}

.scope input {
  width: auto;
}

.offer {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  border-bottom: 1px solid var(--line);
  padding: 5px 0;
  font-size: 13px;
}

.what {
  flex: 1 1 190px;
  display: flex;
  gap: 9px;
  align-items: center;
  min-height: 26px;
}

.what b {
  min-width: 56px;
}

.on .what b {
  color: var(--straw-ink);
}

.right {
  flex: 0 0 82px;
}

.offer > .act {
  flex: 0 0 98px;
  text-align: left;
}

select {
  flex: 0 0 124px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  height: 28px;
  padding: 0 6px;
}

select:disabled {
  opacity: 0.5;
}

.where {
  flex: 1 0 100%;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  padding: 0 0 8px 24px;
}

.where label {
  display: flex;
  gap: 5px;
  align-items: center;
  min-height: 24px;
}

input[type='checkbox'] {
  accent-color: var(--leaf);
}
</style>
