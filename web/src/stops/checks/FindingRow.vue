<script setup lang="ts">
import { computed, ref, watch } from 'vue'

import type { AnyStep, Finding } from '@/api/client'
import { orRefusal } from '@/api/refusal'
import FindingText from '@/parts/FindingText.vue'
import { useAsked } from '@/study/asked'
import { say } from '@/study/notices'
import { count } from '@/study/shown'
import { useStudy } from '@/study/store'

const props = defineProps<{ finding: Finding }>()
const emit = defineEmits<{ accept: [] }>()
const study = useStudy()

/** The remedy that is looked at: what it would do is said before it is done. */
const looked = ref<{ word: string; step: AnyStep } | null>(null)
const effect = useAsked(
  'remedy',
  () => [study.id, looked.value?.step ?? null, study.revision] as const,
  ([, step]) => (step ? orRefusal(study.preview(step)) : null),
)
const said = computed(() => (looked.value ? (effect.value?.[0]?.sentence ?? effect.value?.[1]?.detail ?? '') : ''))
const taking = ref(false)

function look(remedy: { word: string; step: Record<string, unknown> }): void {
  looked.value = looked.value?.word === remedy.word ? null : { word: remedy.word, step: remedy.step as AnyStep }
}
async function take(): Promise<void> {
  if (!looked.value || taking.value) return
  taking.value = true
  const outcome = await study.take(looked.value.step).finally(() => (taking.value = false))
  if (outcome) say(outcome.sentence)
}
watch(() => props.finding, () => (looked.value = null))
</script>

<template>
  <div class="row" :class="finding.severity" data-test="finding">
    <i :title="finding.severity" role="img" :aria-label="finding.severity" />
    <div class="words">
      <FindingText :finding="finding" named />
      <p v-if="looked" class="effect" role="status">
        <span data-test="effect">{{ said }}</span>
        <button v-if="effect?.[0]" class="act" :disabled="taking" data-test="do-remedy" @click="take">do it</button>
      </p>
    </div>
    <span class="ways">
      <button v-for="remedy in finding.remedies" :key="remedy.word" class="act" :aria-pressed="looked?.word === remedy.word" title="Says first what it would do" data-test="remedy" @click="look(remedy)">{{ remedy.word }}…</button>
      <router-link class="act" :to="{ name: 'codebook', params: { study: study.id, variable: finding.variable } }" data-test="see-variable">see the tag</router-link>
      <button class="act" data-test="accept" @click="emit('accept')">accept…</button>
    </span>
    <span class="count">{{ finding.count ? count(finding.count) : '' }}</span>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  gap: 12px;
  align-items: baseline;
  padding: 10px 16px;
  font-size: 13.5px;
}

.row + .row {
  border-top: 1px solid var(--line);
}

i {
  width: 12px;
  height: 12px;
  border-radius: 2px;
  flex: none;
  background: var(--edge);
}

.error i {
  background: var(--beet);
}

.warning i {
  background: repeating-linear-gradient(135deg, var(--straw) 0 2.5px, var(--straw-pale) 2.5px 5px);
}

.words {
  flex: 1;
  min-width: 0;
}

.effect {
  margin-top: 4px;
  padding: 4px 10px;
  border-left: 3px solid var(--leaf);
  background: var(--sheet);
}

.effect .act {
  margin-left: 10px;
}

.ways {
  display: flex;
  flex-wrap: wrap;
  justify-content: flex-end;
  max-width: 420px;
  gap: 14px;
}

.count {
  width: 56px;
  text-align: right;
}
</style>
