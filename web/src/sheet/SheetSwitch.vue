<script setup lang="ts">
/** Puts the side sheet beside the work; the sheet itself puts it away again. */
import { useSheets } from './sheets'

const sheets = useSheets()
</script>

<template>
  <button v-if="!sheets.shown" class="switch" title="The questionnaire or codebook beside the work (Alt+S)" data-test="side-switch" @click="sheets.shown = true">
    <svg viewBox="0 0 16 14" width="16" height="14" aria-hidden="true"><path d="M1 1h14v12H1zM10 1v12M12 4h1.5M12 6.5h1.5M12 9h1.5" fill="none" stroke="currentColor" stroke-width="1.3" /></svg>
    Side sheet
  </button>
</template>

<style scoped>
.switch {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  min-height: 26px;
  padding: 0 8px;
  border-radius: 5px;
  font-size: 12.5px;
  white-space: nowrap;
  color: var(--soil);
}

.switch:hover {
  background: var(--leaf-pale);
  color: var(--ink);
}
</style>
