<script setup lang="ts">
/** The frame of a panel: its title, what it holds, the step it would take with what that comes to, and the way back. */
import { computed } from 'vue'

import type { AnyStep } from '@/api/client'
import { orRefusal } from '@/api/refusal'
import { useAsked } from '@/study/asked'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { usePanel } from './panel'

const props = defineProps<{ title: string; lead?: string; word?: string; step?: AnyStep | null; why?: string }>()
const study = useStudy()
const panel = usePanel()

const looked = useAsked(
  'panel preview',
  () => [study.id, props.step ?? null, study.revision] as const,
  ([, step]) => (step ? orRefusal(study.preview(step)) : null),
)
const preview = computed(() => looked.value?.[0] ?? null)
const refused = computed(() => looked.value?.[1]?.detail ?? '')
const adds = computed(() => (props.step && ('add' in props.step ? props.step.add?.length : props.step.do === 'add variables')) || false)
const untouched = computed(() => preview.value !== null && !adds.value && preview.value.changes.length === 0 && !preview.value.account.entries)
</script>

<template>
  <section class="panel-shell" data-room tabindex="-1" :aria-label="title" data-test="panel" @keydown.esc.stop.prevent="panel.close()" @keydown.ctrl.enter.prevent="step && panel.take(step)">
    <header>
      <div>
        <h2>{{ title }}</h2>
        <p v-if="lead" class="soft">{{ lead }}</p>
      </div>
      <button class="off" aria-label="Close" title="Close (Esc)" data-test="close-panel" @click="panel.close()">×</button>
    </header>
    <div data-home class="body scroll"><slot :preview="preview" /></div>
    <footer v-if="word">
      <p role="status" data-test="panel-preview">
        <span v-if="refused" class="beet">{{ refused }}</span>
        <template v-else-if="!step">{{ why ?? '' }}</template>
        <template v-else-if="preview">
          {{ preview.sentence }}
          <span v-if="untouched" class="soft">Nothing would change.</span>
          <span v-else-if="preview.changes.length" class="soft">{{ counted(preview.changes.length, 'tag') }} would change.</span>
        </template>
      </p>
      <v-btn variant="flat" color="primary" :disabled="!step || refused !== ''" title="Ctrl+Enter" data-test="panel-do" @click="step && panel.take(step)">{{ word }}</v-btn>
    </footer>
  </section>
</template>

<style scoped>
.panel-shell {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  background: var(--paper);
}

header {
  display: flex;
  justify-content: space-between;
  padding: 18px 24px 10px 30px;
}

h2 {
  font-size: 20px;
  font-weight: 650;
}

@media (max-width: 1100px) {
  header,
  .body,
  footer {
    padding-inline: 16px;
  }
}

header p {
  font-size: 13px;
  max-width: 640px;
}

.off {
  width: 28px;
  height: 28px;
  font-size: 18px;
  color: var(--soft);
}

.body {
  flex: 1;
  min-height: 0;
  padding: 4px 30px 24px;
}

footer {
  display: flex;
  gap: 20px;
  align-items: center;
  justify-content: space-between;
  border-top: 1px solid var(--line);
  background: var(--sheet);
  padding: 10px 24px 10px 30px;
}

footer p {
  font-size: 13px;
  min-height: 20px;
}
</style>
