<script setup lang="ts">
/** What differs between two codebooks whose variables meet by name: part by part, what it was and what it is. */
import type { Schema } from '@/api/client'
import { counted } from '@/study/shown'

defineProps<{ compared: Schema['CodebooksModel'] }>()
</script>

<template>
  <section data-test="codebooks">
    <h4>Both codebooks</h4>
    <p v-if="!compared.came.length && !compared.gone.length && !compared.changed.length" class="soft">They are the same.</p>
    <p v-if="compared.gone.length">{{ counted(compared.gone.length, 'variable') }} less: <span class="mono">{{ compared.gone.join(', ') }}</span></p>
    <p v-if="compared.came.length">{{ counted(compared.came.length, 'variable') }} more: <span class="mono">{{ compared.came.join(', ') }}</span></p>
    <table v-if="compared.changed.length" class="plain">
      <thead><tr><th>variable</th><th>part</th><th>was</th><th>is</th></tr></thead>
      <tbody>
        <template v-for="each in compared.changed" :key="each.name">
          <tr v-for="(part, at) in each.parts" :key="part.part">
            <td class="mono">{{ at ? '' : each.name }}</td><td>{{ part.part.replace('_', ' ') }}</td><td class="said struck">{{ part.was || 'nothing' }}</td><td class="said">{{ part.now || 'nothing' }}</td>
          </tr>
        </template>
      </tbody>
    </table>
  </section>
</template>

<style scoped>
h4 {
  font-size: 14px;
  font-weight: 650;
  margin: 14px 0 4px;
}

p {
  font-size: 13px;
  margin: 0 0 4px;
}

.said {
  white-space: pre-line;
}
</style>
