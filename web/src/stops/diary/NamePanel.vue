<script setup lang="ts">
/** Names the state that the study is in. */
import { ref } from 'vue'

import { useKeys } from '@/frame/keys'
import SidePanel from './SidePanel.vue'

const emit = defineEmits<{ name: [name: string, note: string]; leave: [] }>()
const name = ref('')
const note = ref('')
const keep = (): void => void (name.value.trim() && emit('name', name.value.trim(), note.value.trim()))
useKeys({ 'keep amendment': keep, 'leave amendment': () => emit('leave') })
</script>

<template>
  <SidePanel title="Name an edition" label="Name an edition" data-test="name-panel">
    <p class="soft">A state that you can return to, compare, and cite: its sums tell data and codebook from all others.</p>
    <label>name <input v-model="name" autofocus maxlength="120" placeholder="As delivered" data-test="edition-name" /></label>
    <label>note <textarea v-model="note" rows="3" maxlength="4000" data-test="edition-note" /></label>
    <template #foot>
      <span class="grow" />
      <v-btn variant="outlined" @click="emit('leave')">Leave it &nbsp;<kbd>Esc</kbd></v-btn>
      <v-btn variant="flat" color="primary" :disabled="!name.trim()" data-test="keep-edition" @click="keep">Name it &nbsp;<kbd>Ctrl ↵</kbd></v-btn>
    </template>
  </SidePanel>
</template>

<style scoped>
label {
  display: block;
  margin-top: 14px;
  font-size: 13px;
  color: var(--soft);
}

input,
textarea {
  display: block;
  width: 100%;
  margin-top: 3px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 6px 10px;
}
</style>
