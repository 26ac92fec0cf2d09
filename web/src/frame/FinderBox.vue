<script setup lang="ts">
/** The finder: one line to type in, and what it finds; Enter goes there. */
import { nextTick, ref, shallowRef, watch } from 'vue'

import { api, type Finding, got } from '@/api/client'
import { attempt } from '@/study/notices'
import { useStudy } from '@/study/store'
import { type Found, useFinder, useFound } from './finder'

const study = useStudy()
const open = useFinder()
const text = ref('')
const at = ref(0)
const field = ref<HTMLInputElement>()
const findings = shallowRef<Finding[]>([])
const found = useFound(text, findings)

watch(open, async (now) => {
  if (!now) return
  text.value = ''
  await nextTick()
  field.value?.focus()
  const report = await attempt(() => got(api.GET('/api/studies/{study_id}/checks', { params: { path: { study_id: study.id } } })))
  findings.value = report?.findings ?? []
})
watch(text, () => (at.value = 0))

function move(by: number): void {
  at.value = Math.min(Math.max(at.value + by, 0), found.value.length - 1)
  void nextTick(() => document.querySelector('.finder-list [aria-selected="true"]')?.scrollIntoView({ block: 'nearest' }))
}

function take(each: Found | undefined): void {
  if (!each) return
  open.value = false
  each.go()
}
</script>

<template>
  <v-dialog v-model="open" width="620" location="top center" aria-label="Find" scroll-strategy="none">
    <div class="box" data-test="finder" @keydown.esc.stop="open = false">
      <input
        ref="field" v-model="text" role="combobox" aria-controls="found" :aria-activedescendant="found.length ? `found-${at}` : undefined" aria-expanded="true"
        placeholder="Find a variable, a finding, or something to do" aria-label="Find" spellcheck="false" data-test="finder-text"
        @keydown.down.prevent="move(1)" @keydown.up.prevent="move(-1)" @keydown.enter.prevent="take(found[at])"
      />
      <div id="found" class="finder-list scroll" role="listbox" aria-label="Found">
        <div
          v-for="(each, number) in found" :id="`found-${number}`" :key="each.key" role="option" class="found" :class="{ on: number === at }"
          :aria-selected="number === at" :data-test="`found-${each.title}`" @click="take(each)" @mousemove="at = number"
        >
          <span class="kind">{{ each.kind }}</span>
          <b :class="{ mono: each.kind !== 'action' }">{{ each.title }}</b>
          <span class="soft detail">{{ each.detail }}</span>
          <kbd v-if="each.keys">{{ each.keys }}</kbd>
        </div>
        <p v-if="!found.length" class="soft none">Nothing found.</p>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.box {
  background: var(--paper);
  color: var(--ink);
  border: 1px solid var(--edge);
  border-radius: 10px;
  overflow: hidden;
  margin-top: 40px;
}

input {
  width: 100%;
  height: 46px;
  padding: 0 18px;
  font-size: 15px;
  border-bottom: 1px solid var(--line);
  background: var(--white);
  outline: none;
}

input::placeholder {
  color: var(--soft);
  opacity: 1;
}

.finder-list {
  max-height: 440px;
  padding: 6px 0;
}

.found {
  display: flex;
  gap: 10px;
  align-items: baseline;
  padding: 5px 18px;
  font-size: 13.5px;
  cursor: pointer;
}

.found.on {
  background: var(--leaf-pale);
}

.kind {
  width: 58px;
  font-size: 12px;
  color: var(--soil);
}

.detail {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 13px;
}

.on .detail,
.on .kind {
  color: var(--ink);
}

.none {
  padding: 10px 18px;
}
</style>
