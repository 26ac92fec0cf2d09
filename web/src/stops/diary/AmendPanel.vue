<script setup lang="ts">
/** An amendment: the step as it is to be, what becomes of the later ones, and what would not be as it was. */
import { computed } from 'vue'

import { useKeys } from '@/frame/keys'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import type { Amending } from './amending'
import { BEGINNINGS } from './amending'
import ComparedStates from './ComparedStates.vue'
import SidePanel from './SidePanel.vue'
import StepCounts from './StepCounts.vue'
import StepForm from './StepForm.vue'

const props = defineProps<{ amending: Amending }>()
const { edits, at, active, originals, shown, problem, stuck, refused, wished, keeping, write, drop, leave, keep } = props.amending
useKeys({ 'keep amendment': () => void keep(), 'leave amendment': leave })
const study = useStudy()
const foot = computed(() => {
  if (stuck.value.some((each) => each.edited)) return 'The step that is written cannot be done so'
  if (stuck.value.length) return `${counted(stuck.value.length, 'step')} cannot be done any more: mend or leave out`
  const changes = shown.value?.compared?.entries
  return changes === undefined ? '' : `${counted(changes, 'entry', 'entries')} ${changes === 1 ? 'changes' : 'change'}`
})
const later = computed(() => (shown.value?.lines ?? []).filter((each) => !each.edited))
const was = (step: string): string => shown.value?.lines.find((each) => each.step_id === step)?.was ?? ''
const own = computed(() => (active.value ? shown.value?.lines.find((each) => each.edited && (active.value!.how === 'before' ? !each.step_id : each.step_id === active.value!.at)) : null))
const titles = { instead: 'Amend', out: 'Leave out', before: 'Put in' }
const title = computed(() => {
  if (!active.value) return ''
  const sentence = was(active.value.at)
  return `${titles[active.value.how]}: ${active.value.how === 'before' ? `a step before “${sentence}”` : sentence}`
})
const beginAs = (kind: string): void => write(structuredClone(BEGINNINGS[kind]!))
const says = computed(() => (active.value?.says ?? null) as Record<string, unknown> | null)
</script>

<template>
  <SidePanel :title="title" label="Amendment" data-test="amend-panel">
    <datalist id="names-of-variables"><option v-for="each in study.variables" :key="each.id" :value="each.name" /></datalist>
      <p class="soft">What came after is done again. Nothing is lost: the way it was stays in the diary.</p>
      <p v-if="edits.length > 1" class="chips" aria-label="What is otherwise">
        <span v-for="(edit, each) in edits" :key="each"><button :class="{ on: each === at }" :aria-pressed="each === at" @click="at = each">{{ titles[edit.how].toLowerCase() }}: {{ was(edit.at).slice(0, 32) }}</button><button class="off" aria-label="As it was" @click="drop(each)">×</button></span>
      </p>
      <template v-if="says">
        <p class="do">
          <select v-if="active?.how === 'before'" :value="says.do" aria-label="Kind of step" data-test="step-kind" @change="beginAs(($event.target as HTMLSelectElement).value)"><option v-for="(_, kind) in BEGINNINGS" :key="kind" :value="kind">{{ kind }}</option></select>
          <b v-else>{{ says.do }}</b>
        </p>
        <StepForm :key="`${active?.how} ${active?.at} ${says.do}`" :model-value="says" :was="active?.how === 'instead' ? originals[active.at] : undefined" @update:model-value="write($event as Record<string, unknown>)" />
      </template>
      <p v-if="problem" class="beet said" data-test="amend-problem">{{ problem.what }} {{ problem.remedy }}</p>
      <p v-else-if="own && own.came !== 'left out'" class="said" :class="{ beet: own.came === 'not possible' }" data-test="amend-said">{{ own.sentence || own.why.join('; ') }}</p>
      <template v-if="shown && !problem">
        <StepCounts :came="later.map((each) => each.came)" :word="later.length === 1 ? 'later step as before' : 'later steps as before'" data-test="amend-counts" />
        <ComparedStates v-if="shown.compared" :compared="shown.compared" />
      </template>
    <template #foot>
      <span class="soft grow" data-test="amend-foot">{{ foot }}</span>
      <v-btn variant="outlined" data-test="leave-amend" @click="leave">Leave it &nbsp;<kbd>Esc</kbd></v-btn>
      <v-btn variant="flat" color="primary" :disabled="refused || keeping" :loading="wished" data-test="keep-amend" @click="keep">Amend and go on &nbsp;<kbd>Ctrl ↵</kbd></v-btn>
    </template>
  </SidePanel>
</template>

<style scoped>
.do {
  margin: 14px 0 8px;
}

.do select {
  height: 30px;
}

.said {
  margin: 12px 0 0;
  font-size: 13px;
}

.off {
  width: 24px;
  color: var(--soft);
}
</style>
