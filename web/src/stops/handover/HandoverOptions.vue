<script setup lang="ts">
import { computed } from 'vue'

import type { Schema } from '@/api/client'

const props = defineProps<{ options: Schema['Options'] }>()
// eslint-disable-next-line vue/no-mutating-props -- the options are one reactive object shared with the stop
const set = <K extends keyof Schema['Options']>(key: K, value: Schema['Options'][K]) => (props.options[key] = value)
const own = computed(() => typeof props.options.missing_sign === 'string')
</script>

<template>
  <form class="options" @submit.prevent>
    <h2 class="title">Handover</h2>
    <slot />
    <fieldset>
      <legend>Valid entries</legend>
      <label><input type="radio" name="values" :checked="options.values === 'codes'" data-test="as-codes" @change="set('values', 'codes')" /> as codes</label>
      <label><input type="radio" name="values" :checked="options.values === 'labels'" data-test="as-labels" @change="set('values', 'labels')" /> as labels, where there are some</label>
    </fieldset>
    <fieldset>
      <legend>Coded missing</legend>
      <label><input type="radio" name="missing" :checked="!own" data-test="missing-codes" @change="set('missing_sign', null)" /> as their codes</label>
      <label>
        <input type="radio" name="missing" :checked="own" data-test="missing-sign" @change="set('missing_sign', 'NA')" /> all as
        <input
          type="text" class="sign mono" maxlength="20" aria-label="Sign for coded missing" :disabled="!own" :value="options.missing_sign ?? 'NA'" data-test="sign"
          @input="set('missing_sign', ($event.target as HTMLInputElement).value)"
        />
      </label>
    </fieldset>
    <fieldset>
      <legend>Spreadsheets</legend>
      <label>
        <input type="checkbox" :checked="options.guard" data-test="guard" @change="set('guard', !options.guard)" />
        guard text that a spreadsheet would run as a formula
      </label>
    </fieldset>
    <fieldset>
      <legend>Comments</legend>
      <label>
        <input type="checkbox" :checked="options.comments" data-test="with-comments" @change="set('comments', !options.comments)" />
        those on records and entries, in a file of their own
      </label>
    </fieldset>
    <p class="soft">Strays leave as they were recorded, blanks stay empty. Numbers, dates and codes are written in one spelling.</p>
  </form>
</template>

<style scoped>
.options {
  width: 300px;
  flex: none;
  font-size: 13.5px;
}

fieldset {
  border: 0;
  margin-top: 18px;
  padding: 0;
}

legend {
  font-weight: 650;
  margin-bottom: 4px;
}

label {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 28px;
}

input[type='radio'],
input[type='checkbox'] {
  accent-color: var(--leaf);
  width: 15px;
  height: 15px;
  flex: none;
}

.sign {
  width: 90px;
  height: 26px;
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--white);
  padding: 0 6px;
}

.sign:disabled {
  opacity: 0.5;
}

p {
  margin-top: 18px;
  font-size: 12.5px;
}
</style>
