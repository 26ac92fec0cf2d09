<script setup lang="ts">
/** Which records are shown, and in which order: conditions, sorting, records that are alike, those remarked on. */
import { useDebounceFn } from '@vueuse/core'
import { computed, nextTick, reactive, ref, watch } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { count } from '@/study/shown'
import { useStudy } from '@/study/store'
import { type Arrangement, useRecordView } from './view'

type How = 'codes' | 'readings' | 'text' | 'between'
interface Line {
  name: string
  how: How
  text: string
  high: string
  readings: string[]
  other: boolean
}

const study = useStudy()
const view = useRecordView()
const READINGS = { valid: 'valid', missing: 'coded missing', blank: 'blank', unreadable: 'unreadable', unlisted: 'not allowed' }
const HOWS: Record<How, string> = { codes: 'is one of', readings: 'reads as', text: 'contains', between: 'lies between' }

const nameOf = (id: string): string => study.byId.get(id)?.name ?? ''
const idOf = (name: string): string | null => study.variables.find((each) => each.name.toLowerCase() === name.trim().toLowerCase())?.id ?? null

const lines = reactive<Line[]>([])
const sorts = reactive<{ name: string; down: boolean }[]>([])
const alike = ref('')
const remarked = ref(false)
/** Codes by folded label, of variables that were asked for. */
const labels = new Map<string, Map<string, string>>()

/** What is shown now, as it is written here. */
function read(): void {
  const { conditions, sort, alike: same, remarked: only } = view.arrangement
  lines.splice(0, lines.length, ...conditions.map((each): Line => ({
    name: nameOf(each.variable), other: each.other!, readings: [...each.readings!],
    how: each.readings?.length ? 'readings' : each.text ? 'text' : each.low || each.high ? 'between' : 'codes',
    text: each.text || each.low || each.codes!.join(', '), high: each.high ?? '',
  })))
  sorts.splice(0, sorts.length, ...sort.map((each) => ({ name: nameOf(each.variable), down: each.down! })))
  alike.value = same.map(nameOf).join(', ')
  remarked.value = only
}
read()
/** What is being written here is not read back. */
let applying = false
watch(() => view.arrangement, () => applying || read())

async function codesOf(id: string, text: string): Promise<string[]> {
  const parts = text.split(',').map((part) => part.trim()).filter(Boolean)
  if (study.byId.get(id)?.has_codes && !labels.has(id)) {
    const path = { study_id: study.id, variable_id: id }
    const found = await got(api.GET('/api/studies/{study_id}/variables/{variable_id}/answers', { params: { path } }))
    labels.set(id, new Map(found.map((each) => [each.label.toLowerCase(), each.code])))
  }
  return parts.map((part) => labels.get(id)?.get(part.toLowerCase()) ?? part)
}

const apply = useDebounceFn(async () => {
  const conditions: Schema['Condition'][] = []
  for (const line of lines) {
    const variable = idOf(line.name)
    const base = { variable: variable ?? '', other: line.other, codes: [], readings: [], text: '', low: null, high: null }
    if (!variable) continue
    if (line.how === 'readings' && line.readings.length) conditions.push({ ...base, readings: line.readings as Schema['Condition']['readings'] })
    else if (line.how === 'text' && line.text) conditions.push({ ...base, text: line.text })
    else if (line.how === 'between' && (line.text || line.high)) conditions.push({ ...base, low: line.text || null, high: line.high || null })
    else if (line.how === 'codes' && line.text.trim()) conditions.push({ ...base, codes: await codesOf(variable, line.text) })
  }
  const sort = sorts.flatMap(({ name, down }) => { const variable = idOf(name); return variable ? [{ variable, down }] : [] })
  const same = alike.value.split(',').flatMap((name) => idOf(name) ?? [])
  applying = true
  await view.arrange({ conditions, sort, alike: same, remarked: remarked.value } as Partial<Arrangement>)
  await nextTick()
  applying = false
}, 250)

const more = (): number => lines.push({ name: nameOf(study.variables[0]?.id ?? ''), how: 'codes', text: '', high: '', readings: [], other: false })
const all = (): void => void view.arrange({})
const said = computed(() => (view.plain ? 'All records, in the order in which they came.' : `${count(view.rows)} of ${count(study.overview?.records ?? 0)} records. Rows stay where they are while you type; arrange again to sort what was typed.`))
</script>

<template>
  <div class="panel arrange" role="dialog" aria-label="Records that are shown" data-test="arrange">
    <datalist id="arranged-variables"><option v-for="tag in study.variables" :key="tag.id" :value="tag.name">{{ tag.label }}</option></datalist>
    <h3>Only records in which</h3>
    <div v-for="(line, at) in lines" :key="at" class="line" data-test="condition">
      <input v-model="line.name" list="arranged-variables" class="mono" aria-label="Variable" data-test="condition-variable" @change="apply" />
      <select v-model="line.how" aria-label="How" data-test="condition-how" @change="apply"><option v-for="(word, how) in HOWS" :key="how" :value="how">{{ word }}</option></select>
      <span v-if="line.how === 'readings'" class="readings">
        <label v-for="(word, state) in READINGS" :key="state"><input v-model="line.readings" type="checkbox" :value="state" :data-test="`reads-${state}`" @change="apply" /> {{ word }}</label>
      </span>
      <template v-else>
        <input v-model="line.text" class="wide" :aria-label="line.how === 'between' ? 'From' : 'What'" :placeholder="line.how === 'codes' ? 'codes or labels, with commas' : ''" data-test="condition-text" @input="apply" />
        <template v-if="line.how === 'between'"> and <input v-model="line.high" class="end" aria-label="To" data-test="condition-high" @input="apply" /></template>
      </template>
      <label title="All records but these"><input v-model="line.other" type="checkbox" data-test="condition-other" @change="apply" /> not</label>
      <button class="off" aria-label="Take this condition away" @click="lines.splice(at, 1); apply()">×</button>
    </div>
    <button class="act" data-test="more-conditions" @click="more">add a condition</button>
    <h3>In the order of</h3>
    <div v-for="(key, at) in sorts" :key="at" class="line">
      <input v-model="key.name" list="arranged-variables" class="mono" aria-label="Sorted by" data-test="sort-variable" @change="apply" />
      <label><input v-model="key.down" type="checkbox" data-test="sort-down" @change="apply" /> falling</label>
      <button class="off" aria-label="Do not sort by it" @click="sorts.splice(at, 1); apply()">×</button>
    </div>
    <button class="act" data-test="more-sorts" @click="sorts.push({ name: '', down: false })">sort by a variable</button>
    <h3>Or those that</h3>
    <label class="line">are alike in <input v-model="alike" class="wide mono" placeholder="plot_no, or several with commas" spellcheck="false" data-test="alike" @change="apply" /></label>
    <label class="line"><input v-model="remarked" type="checkbox" data-test="only-remarked" @change="apply" /> bear a comment</label>
    <p class="soft" role="status" data-test="arranged">{{ said }}</p>
    <p v-if="!view.plain" class="line"><button class="act" data-test="arrange-again" @click="apply">arrange again</button><button class="act" data-test="show-all" @click="all">show all records</button></p>
  </div>
</template>

<style scoped>
.arrange {
  width: 620px;
  max-height: 74vh;
  overflow: auto;
  padding: 14px 18px;
  font-size: 13px;
}

h3 {
  margin: 12px 0 4px;
  font-size: 13px;
  font-weight: 600;
  color: var(--soil);
}

h3:first-of-type {
  margin-top: 0;
}

.line,
.readings {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  margin-bottom: 6px;
}

.readings {
  margin: 0;
  flex: 1;
}

.line input:not([type]),
select {
  height: 28px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 8px;
  width: 130px;
}

select {
  width: 108px;
}

.line .wide {
  flex: 1;
  min-width: 120px;
}

.line .end {
  width: 80px;
}

.off {
  width: 24px;
  height: 24px;
  font-size: 17px;
}
</style>
