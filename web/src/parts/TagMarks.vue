<script setup lang="ts">
/** How entries are written and how wide they are: only what the type has. */
import { computed } from 'vue'

import type { Schema, Tag } from '@/api/client'
import KeptInput from './KeptInput.vue'

type Parts = Partial<Schema['Parts']>

const props = defineProps<{ tag: Tag }>()
const emit = defineEmits<{ choose: [parts: Parts] }>()

const number = computed(() => props.tag.type === 'integer' || props.tag.type === 'decimal')
const dated = computed(() => props.tag.type === 'date' || props.tag.type === 'datetime')
const THOUSANDS = { '': 'none', ',': 'comma', '.': 'point', ' ': 'space', "'": "'", '’': '’', '\u00a0': 'hard space', '\u202f': 'narrow space' }

const value = (event: Event): string => (event.target as HTMLInputElement).value

function mark(part: Partial<Tag['marks']>): void {
  emit('choose', { marks: { ...props.tag.marks, ...part } } as Parts)
}

function whole(part: 'width' | 'decimals', text: string): boolean {
  const is = /^\d+$/.test(text)
  if (is) emit('choose', { [part]: Number(text) })
  return is
}
</script>

<template>
  <div class="marks">
    <template v-if="number">
      <label>decimal mark
        <select :value="tag.marks?.decimal" data-test="decimal-mark" @change="mark({ decimal: value($event) as '.' })">
          <option value=".">point</option>
          <option value=",">comma</option>
        </select>
      </label>
      <label>thousands mark
        <select :value="tag.marks?.thousands" data-test="thousands-mark" @change="mark({ thousands: value($event) as '' })">
          <option v-for="(word, sign) in THOUSANDS" :key="sign" :value="sign">{{ word }}</option>
        </select>
      </label>
      <label>sign <KeptInput :value="tag.marks?.sign" :keep="(sign) => mark({ sign })" maxlength="8" placeholder="none" data-test="sign" /></label>
      <label v-if="tag.type === 'decimal'">decimals <KeptInput :value="tag.decimals" :keep="(text) => whole('decimals', text)" type="number" min="0" max="18" /></label>
    </template>
    <label v-if="dated">order of dates
      <select :value="tag.marks?.date_order" data-test="date-order" @change="mark({ date_order: value($event) as 'ymd' })">
        <option value="ymd">year, month, day</option>
        <option value="dmy">day, month, year</option>
        <option value="mdy">month, day, year</option>
      </select>
    </label>
    <label>width <KeptInput :value="tag.width" :keep="(text) => whole('width', text)" type="number" min="1" max="32767" data-test="width" /></label>
  </div>
</template>

<style scoped>
.marks {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px 14px;
}

label {
  display: grid;
  gap: 2px;
  font-size: 12px;
  color: var(--soft);
}

select,
input {
  height: 28px;
  min-width: 0;
  width: 100%;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  color: var(--ink);
  padding: 0 8px;
  font-size: 13px;
}
</style>
