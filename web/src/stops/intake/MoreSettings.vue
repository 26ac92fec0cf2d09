<script setup lang="ts">
/** What is seldom changed: own separator, quotes, comment lines, blank rows. */
import KeptInput from '@/parts/KeptInput.vue'
import type { Settings } from './intake'

defineProps<{ settings: Settings }>()
const emit = defineEmits<{ change: [change: Partial<Settings>] }>()
const value = (event: Event): string => (event.target as HTMLInputElement).value

function ownSeparator(text: string): void {
  if (text) emit('change', { separator: text[0], runs: false })
}
</script>

<template>
  <v-menu :close-on-content-click="false">
    <template #activator="{ props: menu }"><v-btn v-bind="menu" data-test="more-settings">More …</v-btn></template>
    <div class="panel box">
      <template v-if="settings.kind === 'delimited'">
        <label>Another separator
          <KeptInput :value="settings.separator" :keep="ownSeparator" maxlength="1" class="mono" data-test="own-separator" />
        </label>
        <label>Entries are enclosed in
          <select :value="settings.quote" data-test="quote" @change="emit('change', { quote: value($event) as Settings['quote'] })">
            <option value="&quot;">double quotes "</option>
            <option value="'">single quotes '</option>
            <option value="">nothing: quotes are text</option>
          </select>
        </label>
        <label>Lines are comments that begin with
          <KeptInput :value="settings.comment" :keep="(comment) => emit('change', { comment })" maxlength="8" class="mono" placeholder="none" data-test="comment" />
        </label>
      </template>
      <label>Blank rows
        <select :value="settings.blank_rows" data-test="blank-rows" @change="emit('change', { blank_rows: value($event) as Settings['blank_rows'] })">
          <option value="leave out">are left out</option>
          <option value="keep">are records</option>
        </select>
      </label>
    </div>
  </v-menu>
</template>

<style scoped>
.box {
  padding: 14px 16px;
  display: grid;
  gap: 10px;
  font-size: 13px;
}

label {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 14px;
}

select,
input {
  height: 29px;
  width: 170px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 8px;
}
</style>
