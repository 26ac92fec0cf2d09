<script setup lang="ts">
/** Of which records every view is, and what they weigh: said once, above them all. */
import { computed, ref } from 'vue'

import type { Schema } from '@/api/client'
import FormulaField from '@/parts/FormulaField.vue'
import { count, counted, figure, weighed } from '@/study/shown'
import { useStudy } from '@/study/store'

const only = defineModel<string>('only', { required: true })
const weight = defineModel<string>('weight', { required: true })
const { basis } = defineProps<{ basis: Schema['BasisModel'] | null }>()
const study = useStudy()
const open = ref(false)
const text = ref(only.value)

const numbers = computed(() => study.variables.filter((tag) => ['integer', 'decimal'].includes(tag.type)))
const weights = computed(() => [...numbers.value].sort((one, other) => Number(other.use === 'weight') - Number(one.use === 'weight')))

/** A condition holds as soon as it is one. */
const looked = (look: Schema['FormulaLook'] | null): void => void (look?.held && !look.problem && (only.value = text.value.trim()))
function clear(): void {
  only.value = text.value = ''
  open.value = false
}

const WITHOUT: Record<string, string> = { missing: 'coded missing', blank: 'blank', stray: 'stray' }
const said = computed(() => {
  if (!basis) return ''
  const { records, met, unknown, unweighed, weights: heavy } = basis
  const parts = only.value ? [`Of ${count(records)} records ${count(met)} meet the condition${unknown ? `; for ${count(unknown)} it cannot be told` : ''}.`] : []
  if (heavy) {
    const left = Object.entries(unweighed).map(([why, many]) => `${counted(many, 'record')} ${why === '0' ? (many === 1 ? 'weighs nothing' : 'weigh nothing') : `with a weight that is ${WITHOUT[why]}`}`)
    parts.push(`Weights from ${figure(heavy.least)} to ${figure(heavy.greatest)}, together ${weighed(heavy.sum)}; they tell as much as ${count(Math.round(heavy.effective))} records of equal weight.${left.length ? ` Left out: ${left.join(', ')}.` : ''}`)
  }
  return parts.join(' ')
})
</script>

<template>
  <div class="basis">
    <div class="line">
      <span class="soft">Every view:</span>
      <span v-if="only" class="chip" data-test="only">only where <b class="mono">{{ only }}</b>
        <button class="act" aria-label="Change the condition" @click="open = !open">change</button>
        <button class="act" aria-label="Of all records again" data-test="clear-only" @click="clear">✕</button></span>
      <button v-else class="act" :aria-expanded="open" data-test="add-only" @click="open = !open">only where …</button>
      <label class="weigh">weighted by
        <select v-model="weight" aria-label="Weight" data-test="weight">
          <option value="">nothing</option>
          <option v-for="tag in weights" :key="tag.id" :value="tag.id">{{ tag.name }}{{ tag.use === 'weight' ? ', a weight' : '' }}</option>
        </select>
      </label>
    </div>
    <div v-if="open" class="condition" @keydown.esc.stop.prevent="open = false" @keydown.enter.stop.prevent="open = false">
      <FormulaField v-model="text" label="Only where" condition data-test="only-text" @look="looked" />
    </div>
    <p v-if="said" class="soft said" data-test="basis">{{ said }}</p>
  </div>
</template>

<style scoped>
.basis {
  padding: 10px 28px 8px;
  border-bottom: 1px solid var(--line);
  font-size: 13px;
}

.line {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: center;
}

.chip {
  display: inline-flex;
  gap: 8px;
  align-items: center;
  padding: 2px 12px;
  border: 1px solid var(--leaf);
  border-radius: 16px;
  background: var(--leaf-pale);
}

.weigh select {
  height: 28px;
  margin-left: 6px;
  padding: 0 6px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
}

.condition {
  max-width: 560px;
  margin-top: 8px;
}

.said {
  margin-top: 6px;
}
</style>
