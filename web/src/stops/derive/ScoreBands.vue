<script setup lang="ts">
/** What a score means: bands of it, derived in the same step under a name of their own. */
import { computed, ref } from 'vue'

import type { Schema } from '@/api/client'
import KeptInput from '@/parts/KeptInput.vue'
import BandRows from './BandRows.vue'
import { type Band, banding, cutAt } from './sentence'

/** The bands as they are asked for: an empty text is proposed. */
export interface Asked { name: string; text: string; number: number; equal: 'counts' | 'widths' }
const asked = defineModel<Asked>({ required: true })
const props = defineProps<{ of: string; bands: Band[]; table: Schema['OldByNewModel'] | null; whole: boolean }>()
defineEmits<{ leave: [] }>()
const anew = (part: Partial<Asked>): void => void (asked.value = { ...asked.value, text: '', ...part })
/** What was shaped last, for as long as it is what is asked for: who goes on does not wait for an answer. */
const draft = ref<{ text: string; bands: Band[] } | null>(null)
const bandsNow = computed(() => (draft.value && draft.value.text === asked.value.text ? draft.value.bands : props.bands))
function shape(bands: Band[] | null): void {
  if (!bands) return
  draft.value = { text: banding(props.of, bands), bands }
  asked.value = { ...asked.value, text: draft.value.text }
}
</script>

<template>
  <section class="bands" aria-label="Bands of it" data-test="score-bands">
    <p class="controls">
      <label>and in bands, as <input class="mono name" :value="asked.name" aria-label="Name of the bands" data-test="then-name" @input="asked = { ...asked, name: ($event.target as HTMLInputElement).value }" /></label>
      <label><KeptInput type="number" min="2" max="30" :value="asked.number" :keep="(text) => anew({ number: Number(text) || 3 })" aria-label="How many bands" data-test="then-number" /> of</label>
      <button v-for="each in ['counts', 'widths'] as const" :key="each" class="act" :class="{ on: asked.equal === each }" :aria-pressed="asked.equal === each" :data-test="`then-${each}`" @click="anew({ equal: each })">equal {{ each }}</button>
      <button class="act" data-test="then-leave" @click="$emit('leave')">leave them out</button>
    </p>
    <BandRows v-if="table" :bands="bandsNow" :table="table" @cut="(at, value) => shape(cutAt(bandsNow, at, value, whole))" @bands="shape" />
  </section>
</template>

<style scoped>
.controls {
  display: flex;
  align-items: center;
  gap: 16px;
  margin-top: 16px;
  font-size: 13px;
}

input {
  width: 58px;
  height: 28px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 8px;
}

.name {
  width: 140px;
}

.on {
  font-weight: 650;
}
</style>
