<script setup lang="ts">
/** All keys, by where they work, each of which can be another one. */
import { nextTick, ref, watch } from 'vue'

import { choose, isOwn, KEYS, keysFor, keysOf, readable, taken, useKeys } from './keys'
import { useKeysPage } from './keysPage'

const open = useKeysPage()
/** What another key is waited for, and why the last one pressed cannot be it. */
const changing = ref('')
const refused = ref('')

const groups = [...new Set(Object.values(KEYS).map((key) => key.where))].map(
  (where) => [where, Object.keys(KEYS).filter((name) => KEYS[name]!.where === where)] as const,
)

const close = ref<HTMLElement>()
watch(open, (now) => now && void nextTick(() => close.value?.focus()))
useKeys({ keys: () => (open.value = true) })

function begin(name: string): void {
  changing.value = changing.value === name ? '' : name
  refused.value = ''
}

/** The next key pressed is the new one, unless it means something else already; Escape leaves it as it was. */
function pressed(event: KeyboardEvent): void {
  if (!changing.value || ['Control', 'Alt', 'Shift', 'Meta', 'Tab'].includes(event.key)) return
  event.preventDefault()
  event.stopPropagation()
  const key = keysOf(event)
  if (key === 'Escape') return begin(changing.value)
  const other = taken(changing.value, key)
  if (other) {
    refused.value = `${readable(key)} is taken: ${other}. Press another.`
    return
  }
  choose(changing.value, key)
  begin(changing.value)
}
</script>

<template>
  <v-dialog v-model="open" width="760" aria-label="Keys" scroll-strategy="none">
    <div class="panel keys scroll" tabindex="-1" data-test="keys" @keydown.capture="pressed">
      <header>
        <h2>Keys</h2>
        <button ref="close" class="act" data-test="close-keys" @click="open = false">close <kbd>Esc</kbd></button>
      </header>
      <section v-for="[where, names] in groups" :key="where" :aria-label="where">
        <h3>{{ where }}</h3>
        <div v-for="name in names" :key="name" class="key" :data-test="`key-${name}`">
          <span>{{ KEYS[name]!.word }}</span>
          <span v-if="changing === name" class="waits" role="status">{{ refused || 'Press the new key; Esc leaves it.' }}</span>
          <span v-else><kbd v-for="key in keysFor(name)" :key="key">{{ readable(key) }}</kbd></span>
          <button class="act" :aria-label="`Change the key: ${KEYS[name]!.word}`" :data-test="`change-${name}`" @click="begin(name)">change</button>
          <button v-if="isOwn(name)" class="act" :data-test="`usual-${name}`" @click="choose(name, null)">as it was</button>
          <span v-else />
        </div>
      </section>
    </div>
  </v-dialog>
</template>

<style scoped>
.keys {
  max-height: 82vh;
  padding: 20px 28px 24px;
  outline: none;
}

header {
  display: flex;
  justify-content: space-between;
}

h2 {
  margin: 0;
}

h3 {
  margin: 16px 0 4px;
}

.key {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(150px, auto) 60px 70px;
  gap: 12px;
  padding: 3px 0;
  border-bottom: 1px solid var(--line);
  align-items: baseline;
}

kbd + kbd {
  margin-left: 6px;
}

.waits {
  color: var(--straw-ink);
}
</style>
