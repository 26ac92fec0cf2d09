<script setup lang="ts">
/** Columns that a file does not have: gone, or called otherwise there. */
import { computed } from 'vue'

const props = defineProps<{ gone: string[]; fresh: string[]; likely: Record<string, string> }>()
/** Under which head a column goes now, per head as it was. */
const renamed = defineModel<Record<string, string>>({ required: true })
const lost = computed(() => [...new Set([...Object.keys(renamed.value), ...props.gone])])
const free = computed(() => [...new Set([...Object.values(renamed.value), ...props.fresh])])
function rename(old: string, head: string): void {
  const rest = Object.fromEntries(Object.entries(renamed.value).filter(([each]) => each !== old))
  renamed.value = head ? { ...rest, [old]: head } : rest
}
</script>

<template>
  <p v-for="old in lost" :key="old" :data-test="`lost-${old}`">
    The column <b class="mono">{{ old }}</b> is not in it:
    <select :value="renamed[old] ?? ''" :aria-label="`What ${old} is called now`" :data-test="`renamed-${old}`" @change="rename(old, ($event.target as HTMLSelectElement).value)">
      <option value="">it is gone</option>
      <option v-for="head in free" :key="head" :value="head">it is called {{ head }}</option>
    </select>
    <button v-if="!renamed[old] && likely[old]" class="act" :data-test="`likely-${old}`" @click="rename(old, likely[old]!)">is it {{ likely[old] }}?</button>
  </p>
</template>

<style scoped>
p {
  margin: 4px 0;
  font-size: 13px;
}

.act {
  margin-left: 8px;
}

select {
  height: 28px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 8px;
}
</style>
