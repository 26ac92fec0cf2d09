<script setup lang="ts">
/** An edition in the diary: a state that somebody named. */
import type { Schema } from '@/api/client'
import { counted, moment } from '@/study/shown'
import { useStudy } from '@/study/store'

defineProps<{ edition: Schema['Edition'] }>()
defineEmits<{ compare: []; forget: [] }>()
const study = useStudy()
</script>

<template>
  <li class="diary-row" data-test="edition">
    <time class="soft">{{ moment(edition.at) }}<br />{{ edition.by }}</time>
    <span class="mark" aria-hidden="true" />
    <div>
      <p><b>Edition “{{ edition.name }}”</b></p>
      <p v-if="edition.note" class="note">{{ edition.note }}</p>
      <p class="soft facts">
        {{ counted(edition.records, 'record') }} × {{ counted(edition.variables, 'variable') }}
        <span class="mono" :title="`SHA-256 of the data: ${edition.data}\nof the codebook: ${edition.codebook}`">{{ edition.data.slice(0, 8) }}·{{ edition.codebook.slice(0, 8) }}</span>
        <router-link v-if="!study.overview?.edition" class="act" :to="{ name: 'codebook', params: { study: `${study.id}~${edition.id}` } }" data-test="open-edition">look at it</router-link>
        <template v-if="!study.overview?.edition"><button class="act" data-test="compare-edition" @click="$emit('compare')">compare with now</button>
        <button class="act" data-test="forget-edition" title="The state stays in the diary" @click="$emit('forget')">let its name go</button></template>
      </p>
    </div>
    <span v-if="study.overview?.state === edition.state" class="now">the study is here</span>
    <button v-else-if="!study.overview?.edition" class="act" data-test="go-edition" @click="study.moveHead('go', edition.state)">go back to it</button>
  </li>
</template>

<style scoped>
.mark {
  width: 12px;
  height: 12px;
  margin: 5px 2px;
  background: var(--sun);
  border: 1.5px solid var(--soil);
  transform: rotate(45deg);
  z-index: 1;
}

.note {
  font: 14px/1.5 var(--serif);
}

.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
  font-size: 12px;
  align-items: baseline;
}
</style>
