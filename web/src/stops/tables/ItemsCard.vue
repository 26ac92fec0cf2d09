<script setup lang="ts">
/** The items of a battery together: how they are ordered, one by one instead, and taken along. */
import { useTemplateRef } from 'vue'

import { copyCard } from './copied'

const { title } = defineProps<{ title: string; said: string; sorted: boolean; word: string }>()
const emit = defineEmits<{ sort: [sorted: boolean]; apart: [] }>()
const card = useTemplateRef<HTMLElement>('card')

async function copy(): Promise<void> {
  if (card.value) await copyCard(card.value, title)
}
</script>

<template>
  <section ref="card" class="panel card" :aria-label="title" data-test="battery">
    <header>
      <h2>{{ title }} <span class="soft said">{{ said }}</span></h2>
      <div class="ways">
        <select :value="sorted ? 'sorted' : ''" aria-label="Order of the items" data-test="battery-order" @change="emit('sort', !!($event.target as HTMLSelectElement).value)"><option value="">as asked</option><option value="sorted">{{ word }}</option></select>
        <v-btn data-test="one-by-one" @click="emit('apart')">One by one</v-btn>
        <v-btn data-test="copy-battery" title="As a table, for a document or a spreadsheet" @click="copy">Copy</v-btn>
      </div>
    </header>
    <slot />
  </section>
</template>

<style scoped>
.card {
  padding: 16px 20px;
  margin-bottom: 18px;
}

header,
.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
}

header {
  justify-content: space-between;
  margin-bottom: 8px;
}

h2 {
  font-size: 17px;
  font-weight: 650;
}

.said {
  font-size: 13px;
  font-weight: 400;
  margin-left: 8px;
}

select {
  height: 28px;
  padding: 0 6px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  font-size: 13px;
}
</style>
