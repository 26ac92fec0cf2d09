<script setup lang="ts">
/** One run of work in the diary: a sentence; where it is several steps it opens to them. */
import { computed, ref } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { attempt } from '@/study/notices'
import { counted, moment } from '@/study/shown'
import { useStudy } from '@/study/store'
import ComparedStates from './ComparedStates.vue'
import { type AmendedLine, type Amending, SAID } from './amending'

type Line = Schema['DiaryLineModel']

/** `picked` are the steps that are taken into a routine, where these are being chosen. */
const props = defineProps<{ run: Schema['DiaryRun']; amending: Amending; picked: ReadonlySet<string> | null }>()
defineEmits<{ pick: [steps: string[], taken: boolean] }>()
const steps = (line: Line, within: boolean): string[] => (within ? [line.step_id] : props.run.lines.map((each) => each.step_id))
const { edits, lines, amend, leaveOut, putIn } = props.amending
/** What becomes of a step with what is being amended; of a run that is closed the worst of its steps. */
const WORST: AmendedLine['came'][] = ['not possible', 'in part', 'left out', 'nothing to do', 'done']
function became(line: Line, within: boolean): AmendedLine | null {
  const of = within || open.value ? [line] : props.run.lines
  const found = of.map((each) => lines.value.get(each.step_id)).filter((each) => !!each)
  return WORST.map((came) => found.find((each) => each.came === came)).find((each) => !!each) ?? null
}
/** The steps that are opened to what they made otherwise. */
const opened = ref<ReadonlySet<string>>(new Set())
const evidence = ref<Record<string, Schema['ComparedModel']>>({})
async function show(step: string): Promise<void> {
  const now = new Set(opened.value)
  if (!now.delete(step)) now.add(step)
  opened.value = now
  if (evidence.value[step]) return
  const path = { study_id: study.id, step_id: step }
  const found = await attempt(() => got(api.GET('/api/studies/{study_id}/steps/{step_id}/evidence', { params: { path } })))
  if (found) evidence.value = { ...evidence.value, [step]: found }
}
const own = (within: boolean): boolean => within || !several.value
const study = useStudy()
const open = ref(false)
const newest = computed(() => props.run.lines[0]!)
const several = computed(() => props.run.lines.length > 1)
/** Where the study is within the run, the line is shown that it is at. */
const here = computed(() => props.run.lines.some((line) => line.state === study.overview?.state))
const shown = computed<{ line: Line; sentence: string; within: boolean }[]>(() => [
  { line: newest.value, sentence: props.run.sentence, within: false },
  ...(several.value && open.value ? props.run.lines.map((line) => ({ line, sentence: line.sentence, within: true })) : []),
])
const MOST_NAMES = 4
const variables = (line: Line): string[] =>
  several.value && line === newest.value ? [...new Set(props.run.lines.flatMap((each) => each.account.variables))] : line.account.variables
const names = (line: Line): { id: string; name: string }[] =>
  variables(line).slice(0, MOST_NAMES).map((id) => ({ id, name: study.byId.get(id)?.name ?? '' })).filter((each) => each.name)
const at = (line: Line, within: boolean): boolean =>
  within || !several.value ? line.state === study.overview?.state : here.value && !open.value
</script>

<template>
  <li
    v-for="{ line, sentence, within } in shown" :key="`${line.step_id}${within}`" class="diary-row" :class="{ here: !edits.length && at(line, within), gone: !line.current, before: edits.length > 0 && !became(line, within), within, amending: edits.length > 0 }"
    :data-came="edits.length ? became(line, within)?.came : undefined" :data-test="within ? 'diary-step' : 'diary-line'"
  >
    <time class="soft">{{ moment(line.at) }}<br v-if="!within" />{{ within ? '' : line.by }}</time>
    <input v-if="picked && line.current" type="checkbox" class="pick" :checked="steps(line, within).every((each) => picked!.has(each))" :aria-label="`Take: ${sentence}`" data-test="pick" @change="$emit('pick', steps(line, within), ($event.target as HTMLInputElement).checked)" />
    <span v-else class="knot" aria-hidden="true" />
    <div class="words">
      <p class="clamped" :title="sentence.length > 400 ? sentence : undefined">{{ sentence }}</p>
      <p v-if="edits.length && became(line, within)" class="came" :class="became(line, within)!.came.replace(' ', '-')" data-test="came">
        {{ became(line, within)!.edited && became(line, within)!.came !== 'left out' ? 'being amended' : SAID[became(line, within)!.came] }}<template v-if="became(line, within)!.why.length">: {{ became(line, within)!.why.join('; ') }}</template>
      </p>
      <p v-if="!edits.length || became(line, within)" class="soft names">
        <template v-if="!edits.length && !within">
          <router-link v-for="each in names(line)" :key="each.id" class="mono" :to="{ name: 'codebook', params: { study: study.id, variable: each.id } }">{{ each.name }}</router-link>
          <span v-if="variables(line).length > MOST_NAMES">and {{ variables(line).length - MOST_NAMES }} more</span>
        </template>
        <button v-if="several && !within" class="act" :aria-expanded="open" data-test="open-run" @click="open = !open">{{ open ? 'close' : counted(run.lines.length, 'step') }}</button>
        <span v-if="own(within) && !picked" class="acts" :class="{ open: opened.has(line.step_id) }">
          <button v-if="!edits.length" class="act" :aria-expanded="opened.has(line.step_id)" data-test="evidence" @click="show(line.step_id)">{{ opened.has(line.step_id) ? 'close it' : 'what it changed' }}</button>
         <template v-if="line.current && !study.overview?.edition">
          <button class="act" data-test="amend" @click="amend(line.step_id)">{{ became(line, within)?.came === 'not possible' ? 'mend' : 'amend' }}</button>
          <button class="act" data-test="leave-out" @click="leaveOut(line.step_id)">leave out</button>
          <button class="act" data-test="put-in" @click="putIn(line.step_id)">put one in before</button>
         </template>
        </span>
        <span v-if="line.again && !within" title="A step before it was amended, and it was done again">done again</span>
      </p>
      <ComparedStates v-if="opened.has(line.step_id) && own(within) && evidence[line.step_id]" :compared="evidence[line.step_id]!" class="evidence" />
    </div>
    <span v-if="edits.length" />
    <span v-else-if="at(line, within)" class="now">the study is here</span>
    <button v-else-if="!study.overview?.edition && (within || !several || !open)" class="act" data-test="go-here" @click="study.moveHead('go', line.state)">{{ line.current ? 'go back to here' : 'go to here' }}</button>
  </li>
</template>

<style scoped>
.knot {
  width: 12px;
  height: 12px;
  margin: 4px 2px;
  border-radius: 50%;
  background: var(--leaf);
  z-index: 1;
}

.pick {
  width: 16px;
  height: 16px;
  margin: 3px 0;
  accent-color: var(--leaf);
  z-index: 1;
}

.evidence {
  margin-top: 8px;
}

.gone .knot {
  background: var(--paper);
  border: 2px dashed var(--edge);
}

.gone .words {
  color: var(--soft);
}

.before .words {
  color: var(--soft);
}

.before .knot {
  opacity: 0.55;
}

.amending {
  grid-template-columns: 16px 1fr 0;
}

.amending::before {
  left: 7px;
}

.amending time {
  display: none;
}

.acts {
  position: absolute;
  right: 144px;
  bottom: 6px;
  display: flex;
  gap: 12px;
  padding: 0 0 0 10px;
  background: var(--paper);
  opacity: 0;
}

.amending .acts {
  right: 0;
}

li:hover .acts,
.acts.open,
li:focus-within .acts,
li[data-came='not possible'] .acts {
  opacity: 1;
}

.came {
  font-size: 12px;
  font-weight: 400;
  color: var(--soft);
}

.came.in-part {
  color: var(--straw-ink);
}

.came.not-possible {
  color: var(--beet);
}

li[data-came='in part'] .knot {
  background: var(--straw);
}

li[data-came='not possible'] .knot {
  background: var(--beet);
}

li[data-came='left out'] .knot {
  background: var(--paper);
  border: 2px dashed var(--edge);
}

.here .knot {
  box-shadow: 0 0 0 4px var(--leaf-pale);
}

.here .words {
  font-weight: 600;
}

.names {
  font-size: 12px;
  font-weight: 400;
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 0 12px;
}

.names a {
  color: var(--soft);
  line-height: 24px;
}

.within {
  padding: 4px 0;
  font-size: 13px;
}

.within .knot {
  transform: scale(0.6);
}
</style>
