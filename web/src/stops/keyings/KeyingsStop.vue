<script setup lang="ts">
/** Two keyings of the same questionnaires side by side: how far they agree, and what is kept where they differ. */
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { type AnyStep, api, got, type Schema } from '@/api/client'
import { orRefusal } from '@/api/refusal'
import { leadTo } from '@/frame/focus'
import { useKeys } from '@/frame/keys'
import KeptInput from '@/parts/KeptInput.vue'
import VirtualList from '@/parts/VirtualList.vue'
import { useAsked } from '@/study/asked'
import { attempt, say } from '@/study/notices'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'

type Twice = Schema['KeyedTwice']

const study = useStudy()
const route = useRoute()
const router = useRouter()

const others = shallowRef<Schema['Entry'][]>([])
const other = ref(typeof route.query.with === 'string' ? route.query.with : '')
watch(() => study.id, async (id) => {
  const found = await attempt(() => got(api.GET('/api/studies')))
  others.value = (found ?? []).filter((each) => each.id !== id && !each.removed_at)
  const title = others.value.find((each) => each.id === id)?.title ?? study.overview?.title ?? ''
  other.value ||= others.value.find((each) => each.title.startsWith(title) && each.title !== title)?.id ?? ''
}, { immediate: true })

const asked = useAsked(
  'keyings',
  () => [study.id, other.value, study.revision] as const,
  ([study_id, other_id]) => (study_id && other_id ? orRefusal(got(api.GET('/api/studies/{study_id}/keyings/{other_id}', { params: { path: { study_id, other_id } } }))) : null),
)
const found = computed(() => asked.value?.[0] ?? null)
const refused = computed(() => asked.value?.[1]?.detail ?? '')

const only = ref('')
const openOnly = ref(true)
const shown = computed(() => (found.value?.differences ?? []).filter((each) => (!only.value || each.variable === only.value) && !(openOnly.value && each.decided)))
const tag = (id: string): ReturnType<typeof study.byId.get> => study.byId.get(id)
const percent = (each: Schema['Agreement']): string => (each.compared ? `${((100 * each.agree) / each.compared).toFixed(1)} %` : '–')
const shownEntry = (text: string): string => (text.trim() ? text : 'blank')
const worst = computed(() => [...(found.value?.agreements ?? [])].sort((a, b) => a.agree / (a.compared || 1) - b.agree / (b.compared || 1)))

/** Keeps one entry of each of some differences. */
async function decide(which: readonly Twice[], kept: (each: Twice) => string): Promise<void> {
  const decisions = which.map((each) => ({ record: each.record, variable: each.variable, own: each.decided ? each.decided.kept : each.own, other: each.other, kept: kept(each) }))
  if (!decisions.length) return
  const outcome = await study.take({ do: 'decide', format: 1, decisions } as AnyStep)
  if (outcome) say(outcome.sentence)
}

useKeys({ 'first difference': () => leadTo('keep-own') })

/** A study of its own in which the questionnaires are keyed again, without sight of the first keying. */
async function begin(): Promise<void> {
  const made = await attempt(() => got(api.POST('/api/studies/{study_id}/second-keying', { params: { path: { study_id: study.id } } })))
  if (made) void router.push({ name: 'key', params: { study: made.id } })
}
</script>

<template>
  <div class="stop-column" data-test="keyings">
    <div class="bar">
      <h2 class="title">Two keyings</h2>
      <label>beside
        <select v-model="other" aria-label="The other keying" data-test="other-keying">
          <option value="">choose a study</option>
          <option v-for="each in others" :key="each.id" :value="each.id">{{ each.title }}</option>
        </select>
      </label>
      <span class="grow" />
      <v-btn data-test="begin-second" title="A study of its own with this codebook, in which nothing of the first keying is seen" @click="begin">Key them again</v-btn>
      <v-btn :to="{ name: 'records', params: { study: study.id } }">Back to the records</v-btn>
    </div>
    <div v-if="!other" class="empty">
      <h2>Keyed once is not yet checked</h2>
      <p>Have the same questionnaires keyed a second time, by somebody who does not see the first keying, or bring a second file in as a study of its own. Then the two are compared here by {{ study.variables.find((each) => each.use === 'identifier')?.name ?? 'the identifier' }}, and each difference is decided.</p>
      <v-btn variant="flat" color="primary" @click="begin">Key them again</v-btn>
    </div>
    <p v-else-if="refused" class="empty beet" role="alert" data-test="keyings-refused">{{ refused }}</p>
    <div v-else-if="found" class="beside split">
      <section class="agreements listing scroll" aria-label="How far the keyings agree">
        <p class="sum" data-test="keyings-met"><b>{{ counted(found.met, 'record') }}</b> keyed twice, met by <b class="mono">{{ tag(found.by)?.name }}</b></p>
        <p v-if="found.only_own || found.only_other || found.repeated" class="soft">{{ [found.only_own ? `${count(found.only_own)} only here` : '', found.only_other ? `${count(found.only_other)} only there` : '', found.repeated ? `${counted(found.repeated, 'identifier')} more than once` : ''].filter(Boolean).join(', ') }}</p>
        <table>
          <thead><tr class="soft"><th>variable</th><th class="number">agree</th><th class="number" title="Agreement beyond chance, for coded variables (Cohen 1960)">kappa</th><th class="number">differ</th></tr></thead>
          <tbody>
            <tr v-for="each in worst" :key="each.variable" :class="{ on: only === each.variable }" :data-test="`agreement-${tag(each.variable)?.name}`">
              <th scope="row"><button class="mono" :aria-pressed="only === each.variable" @click="only = only === each.variable ? '' : each.variable">{{ tag(each.variable)?.name }}</button></th>
              <td class="number">{{ percent(each) }}</td><td class="number">{{ each.kappa === null ? '' : each.kappa?.toFixed(2) }}</td>
              <td class="number" :class="{ beet: each.compared > each.agree }">{{ each.compared > each.agree ? count(each.compared - each.agree) : '' }}</td>
            </tr>
          </tbody>
        </table>
      </section>
      <section class="differences" aria-label="Where the keyings differ">
        <div class="line">
          <b data-test="keyings-open">{{ found.differing - found.decided ? `${counted(found.differing - found.decided, 'difference')} to decide` : found.differing ? 'All differences are decided' : 'The keyings agree in everything' }}</b>
          <span v-if="found.decided" class="soft">{{ count(found.decided) }} decided</span>
          <span class="grow" />
          <label><input v-model="openOnly" type="checkbox" data-test="open-only" /> only those to decide</label>
          <button class="act" :disabled="!shown.length" title="For all that are shown" data-test="all-own" @click="decide(shown, (each) => each.own)">keep all of the first</button>
          <button class="act" :disabled="!shown.length" title="For all that are shown" data-test="all-other" @click="decide(shown, (each) => each.other)">take all of the second</button>
        </div>
        <VirtualList :items="shown" :key-of="(each) => `${each.record} ${each.variable}`" class="rows scroll" :data-home="shown.length ? '' : undefined">
          <template #default="{ item: each }">
            <div class="row" :data-test="`twice-${each.identifier}-${tag(each.variable)?.name}`">
              <span class="mono where">{{ each.identifier }}</span>
              <span class="what"><b class="mono">{{ tag(each.variable)?.name }}</b> <span class="soft">{{ tag(each.variable)?.label }}</span></span>
              <button class="entry" :class="{ kept: each.decided?.kept === each.own }" title="Keep what the first keying has" data-test="keep-own" @click="decide([each], (one) => one.own)"><small class="soft">first</small> <b class="mono">{{ shownEntry(each.own) }}</b> {{ each.own_label }}</button>
              <button class="entry" :class="{ kept: each.decided && each.decided.kept === each.other }" title="Take what the second keying has" data-test="take-other" @click="decide([each], (one) => one.other)"><small class="soft">second</small> <b class="mono">{{ shownEntry(each.other) }}</b> {{ each.other_label }}</button>
              <KeptInput class="mono third" :value="each.decided && each.decided.kept !== each.own && each.decided.kept !== each.other ? each.decided.kept : ''" :keep="(text) => decide([each], () => text)" placeholder="neither" aria-label="What it is instead" spellcheck="false" data-test="third" />
            </div>
          </template>
        </VirtualList>
        <p v-if="found.differing > found.differences.length" class="soft">The first {{ count(found.differences.length) }} of {{ count(found.differing) }} are listed.</p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.bar,
.line {
  display: flex;
  align-items: center;
  gap: 14px;
  min-height: 46px;
  padding: 0 16px;
  border-bottom: 1px solid var(--line);
  font-size: 13px;
}

.line {
  padding: 0 0 0 4px;
  min-height: 40px;
}

select,
.third {
  height: 30px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 8px;
}

.beside {
  flex: 1;
  min-height: 0;
  display: flex;
}

.agreements {
  width: 390px;
  flex: none;
  padding: 16px 20px;
  background: var(--bed);
  border-right: 1px solid var(--line2);
  font-size: 13px;
}

.sum {
  font-size: 14px;
}

table {
  width: 100%;
  margin-top: 12px;
  border-collapse: collapse;
}

th,
td {
  padding: 3px 6px;
  text-align: left;
  font-weight: 400;
  border-bottom: 1px solid var(--line);
}

th button {
  min-height: 24px;
  font-weight: 600;
}

tr.on {
  background: var(--leaf-pale);
}

.number {
  text-align: right;
}

.differences {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  padding: 6px 20px 12px;
}

.rows {
  flex: 1;
}

.row {
  display: grid;
  grid-template-columns: 84px minmax(120px, 1fr) minmax(120px, 200px) minmax(120px, 200px) 84px;
  gap: 10px;
  align-items: center;
  min-height: 44px;
  border-bottom: 1px solid var(--line);
  font-size: 13px;
}

.what,
.where,
.entry {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.entry {
  min-height: 32px;
  padding: 0 10px;
  text-align: left;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
}

.entry:hover,
.entry.kept {
  border-color: var(--leaf);
  background: var(--leaf-pale);
}

.third {
  width: 100%;
}
</style>
