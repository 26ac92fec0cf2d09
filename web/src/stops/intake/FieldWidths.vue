<script setup lang="ts">
/** Widths of fixed columns from a codebook: typed or pasted, from a file, or from a study's own tags. */
import { onMounted, ref } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { attempt } from '@/study/notices'
import type { Intake } from './intake'

const props = defineProps<{ study: string; take: Intake['takeFields'] }>()
const open = ref(false)
const text = ref('')
const other = ref('')
const studies = ref<Schema['Entry'][]>([])

onMounted(async () => {
  studies.value = ((await attempt(() => got(api.GET('/api/studies')))) ?? []).filter((each) => each.variables && !each.removed_at)
})

async function use(source: Schema['FieldSource'] | File): Promise<void> {
  if (await props.take(source)) open.value = false
}

function chosen(event: Event): void {
  const file = (event.target as HTMLInputElement).files?.[0]
  if (file) void use(file)
}
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false">
    <template #activator="{ props: menu }">
      <button class="act" v-bind="menu" data-test="widths">take widths from a codebook …</button>
    </template>
    <form class="panel box" @submit.prevent="use({ kind: 'text', value: text })">
      <label>A name and a width, or first and last character, one field a line
        <textarea v-model="text" rows="6" class="mono" spellcheck="false" placeholder="plot 4&#10;tenure 1&#10;hours 6-8" data-test="widths-text" />
      </label>
      <v-btn type="submit" :disabled="!text.trim()" data-test="use-widths">Use these</v-btn>
      <label>or a table with the columns name and width, or start and end
        <input type="file" accept=".csv,.tsv,.txt,.xlsx,.ods" data-test="widths-file" @change="chosen" />
      </label>
      <label v-if="studies.length">or the widths of a study's tags
        <select v-model="other" @change="use({ kind: 'study', value: other })">
          <option value="" disabled>Choose a study</option>
          <option v-for="each in studies" :key="each.id" :value="each.id">{{ each.id === study ? 'this study' : each.title }}</option>
        </select>
      </label>
    </form>
  </v-menu>
</template>

<style scoped>
.box {
  width: 340px;
  padding: 14px 16px;
  display: grid;
  gap: 10px;
  font-size: 13px;
}

label {
  display: grid;
  gap: 4px;
}

textarea,
select {
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 6px 8px;
}

.v-btn {
  justify-self: start;
}
</style>
