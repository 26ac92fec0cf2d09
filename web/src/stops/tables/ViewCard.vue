<script setup lang="ts">
/** What all views have: a title, what can be changed of them, and that they are taken along. */
import { useTemplateRef } from 'vue'

import { copyCard } from './copied'

const { title, name } = defineProps<{ title: string; name: string }>()
const card = useTemplateRef<HTMLElement>('card')

async function copy(): Promise<void> {
  if (card.value) await copyCard(card.value, title)
}
</script>

<template>
  <section ref="card" class="panel card" :aria-label="title">
    <header>
      <h2><slot name="title">{{ title }}</slot></h2>
      <div class="ways">
        <slot name="ways" />
        <v-btn :data-test="`copy-${name}`" title="As a table, for a document or a spreadsheet" @click="copy">Copy</v-btn>
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

header {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 18px;
  align-items: start;
  justify-content: space-between;
  margin-bottom: 4px;
}

h2 {
  font-size: 17px;
  font-weight: 650;
  overflow-wrap: anywhere;
  min-width: 0;
}

.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
  font-size: 13px;
}

.ways :deep(select) {
  height: 28px;
  max-width: 150px;
  padding: 0 6px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  font-size: 13px;
}

.ways :deep(label) {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}

.ways :deep(input) {
  accent-color: var(--leaf);
}
</style>
