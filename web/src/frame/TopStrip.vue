<script setup lang="ts">
import { computed } from 'vue'

import FillBar from '@/parts/FillBar.vue'
import { NEXT_THEME, theme } from '@/study/theme'
import { type Show, useStudy } from '@/study/store'
import { useFinder } from './finder'
import { counted } from '@/study/shown'

const study = useStudy()
const finding = useFinder()
const SHOWS: Show[] = ['codes', 'labels', 'both']
const seen = computed(() => study.overview)
</script>

<template>
  <header class="top">
    <template v-if="seen">
      <h1 :title="seen.title">{{ seen.title }}</h1>
      <template v-if="study.variables.length">
        <span class="soft size" data-test="size">
          {{ counted(seen.records, 'record') }} × {{ counted(study.variables.length, 'variable') }}
        </span>
        <FillBar :fill="seen.fill" class="fill" />
      </template>
    </template>
    <span class="grow" />
    <button class="finder" title="Find a variable, a finding or something to do (Ctrl+K)" data-test="open-finder" @click="finding = true">Find <kbd>Ctrl K</kbd></button>
    <div class="switch" role="radiogroup" aria-label="Show entries as (Alt+C)" title="Show entries as (Alt+C)">
      <button
        v-for="show in SHOWS"
        :key="show"
        role="radio"
        :aria-checked="study.show === show"
        :class="{ on: study.show === show }"
        :data-test="`show-${show}`"
        @click="study.show = show"
      >
        {{ show }}
      </button>
    </div>
    <span v-if="seen?.edition" class="looked" data-test="looked-at">edition “{{ seen.edition }}”, read only <router-link class="act" :to="{ name: 'diary', params: { study: study.id.split('~')[0] } }" data-test="leave-edition">leave it</router-link></span>
    <div v-else class="back">
      <button
        aria-label="Undo" data-test="undo" :disabled="!seen?.undo"
        :title="seen?.undo ? `Undo: ${seen.undo} (Ctrl+Z)` : 'Nothing to undo'"
        @click="study.moveHead('undo')"
      >↶</button>
      <button
        aria-label="Redo" data-test="redo" :disabled="!seen?.redo"
        :title="seen?.redo ? `Redo: ${seen.redo} (Ctrl+Shift+Z)` : 'Nothing to redo'"
        @click="study.moveHead('redo')"
      >↷</button>
    </div>
    <button class="theme" :aria-label="`Colours: ${theme}`" :title="`Colours: ${theme}; click for ${NEXT_THEME[theme]}`" data-test="theme" @click="theme = NEXT_THEME[theme]">{{ { light: '☀', dark: '☾', 'as the system': '◐' }[theme] }}</button>
  </header>
</template>

<style scoped>
.top {
  height: 50px;
  flex: none;
  display: flex;
  align-items: center;
  gap: 16px;
  padding: 0 16px;
  border-bottom: 1px solid var(--line);
  background: var(--paper);
}

@media (max-width: 900px) {
  .top {
    gap: 8px;
    padding: 0 10px;
  }

  .size,
  .fill,
  .finder kbd {
    display: none;
  }
}

.looked {
  padding: 3px 12px;
  border-radius: 6px;
  background: var(--straw-pale);
  color: var(--straw-ink);
  font-size: 13px;
  white-space: nowrap;
}

h1 {
  min-width: 0;
  font-size: 15px;
  font-weight: 650;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  max-width: 420px;
}

.size {
  font-size: 13px;
  white-space: nowrap;
}

.fill {
  width: 120px;
}

.switch {
  flex: none;
  display: inline-flex;
  border: 1px solid var(--edge);
  border-radius: 6px;
  overflow: hidden;
}

.switch button {
  padding: 4px 10px;
  font-size: 12.5px;
  color: var(--soft);
  background: var(--white);
}

.switch button.on {
  background: var(--ink);
  color: var(--paper);
}

.switch button:focus-visible {
  outline-offset: -2px;
}

.finder {
  flex: none;
  display: flex;
  gap: 8px;
  align-items: center;
  height: 28px;
  padding: 0 8px 0 12px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  font-size: 12.5px;
  color: var(--soft);
}

.theme {
  width: 28px;
  height: 28px;
  font-size: 15px;
  border-radius: 6px;
}

.theme:hover {
  background: var(--bed);
}

.back {
  display: flex;
  gap: 2px;
}

.back button {
  width: 28px;
  height: 28px;
  font-size: 18px;
  color: var(--ink);
  border-radius: 6px;
}

.back button:disabled {
  color: var(--line2);
}

.back button:not(:disabled):hover {
  background: var(--bed);
}
</style>
