<script setup lang="ts">
/** A routine that somebody chose: what each of its steps would do here, and what would not be as it was. */
import { computed, ref } from 'vue'

import { api, got } from '@/api/client'
import { useKeys } from '@/frame/keys'
import { useAsked } from '@/study/asked'
import { complain, say } from '@/study/notices'
import { useStudy } from '@/study/store'
import ComparedStates from './ComparedStates.vue'
import RoutineLines from './RoutineLines.vue'
import SidePanel from './SidePanel.vue'
import StepCounts from './StepCounts.vue'

const props = defineProps<{ text: string; name: string }>()
const emit = defineEmits<{ leave: [] }>()
const study = useStudy()
const look = useAsked(
  'routine',
  () => [study.id, props.text, props.name, study.revision] as const,
  ([study_id, text, name]) => got(api.POST('/api/studies/{study_id}/routine/preview', { params: { path: { study_id } }, body: { text, name } })),
)
const lines = computed(() => look.value?.lines ?? [])
const possible = computed(() => lines.value.some((each) => each.came === 'done' || each.came === 'in part'))
const keeping = ref(false)
async function keep(): Promise<void> {
  if (!possible.value || keeping.value) return
  keeping.value = true
  try {
    const body = { text: props.text, name: props.name, expected: look.value!.revision }
    const reply = await got(api.POST('/api/studies/{study_id}/routine', { params: { path: { study_id: study.id } }, body }))
    study.session?.heard(reply.revision)
    await study.refresh()
    say(`Did what ${props.name} says. Undo leads back before it.`)
    emit('leave')
  } catch (error) {
    complain(error)
  } finally {
    keeping.value = false
  }
}
useKeys({ 'keep amendment': () => void keep(), 'leave amendment': () => emit('leave') })
</script>

<template>
  <SidePanel :title="`Run ${name}`" label="Run a routine" data-test="routine-panel">
    <p v-if="look?.problem" class="beet" data-test="routine-problem">{{ look.problem.what }} {{ look.problem.remedy }}</p>
    <template v-else-if="look">
      <StepCounts :came="lines.map((each) => each.came)" word="as they are written" data-test="routine-counts" />
      <p v-for="note in look.notes" :key="note" class="soft" data-test="routine-note">{{ note }}.</p>
      <RoutineLines :lines="lines" />
      <ComparedStates v-if="look.compared" :compared="look.compared" />
    </template>
    <template #foot>
      <span class="grow" />
      <v-btn variant="outlined" @click="emit('leave')">Leave it &nbsp;<kbd>Esc</kbd></v-btn>
      <v-btn variant="flat" color="primary" :disabled="!possible || keeping" data-test="do-routine" @click="keep">Do it &nbsp;<kbd>Ctrl ↵</kbd></v-btn>
    </template>
  </SidePanel>
</template>
