<script setup lang="ts">
/** One finding: what it says; where it is chosen, what can be done about it, and what that would do. */
import { computed } from 'vue'

import type { Finding } from '@/api/client'
import FindingText from '@/parts/FindingText.vue'
import { count } from '@/study/shown'
import { useStudy } from '@/study/store'
import { keyOf, type Remedies } from './remedies'

const props = defineProps<{ finding: Finding; chosen: boolean; remedies: Remedies }>()
const emit = defineEmits<{ choose: []; accept: [] }>()
const study = useStudy()
const looked = computed(() => props.remedies.looked.value.get(keyOf(props.finding)))
const alone = computed(() => looked.value && props.remedies.looked.value.size === 1)
</script>

<template>
  <div class="row" :class="[finding.severity, { chosen }]" data-test="finding" :aria-current="chosen || undefined">
    <i :title="finding.severity" role="img" :aria-label="finding.severity" />
    <div class="words">
      <button class="choose" data-test="choose-finding" @click="emit('choose')"><FindingText :finding="finding" named /></button>
      <p v-if="finding.before" class="soft" data-test="accepted-before">{{ finding.before }}</p>
      <div v-if="chosen || looked" class="ways">
        <v-btn v-for="remedy in finding.remedies" :key="remedy.word" :variant="looked?.word === remedy.word ? 'tonal' : 'outlined'" :color="looked?.word === remedy.word ? 'primary' : undefined" :aria-pressed="looked?.word === remedy.word" title="Says first what it would do" data-test="remedy" @click="remedies.look(finding, remedy)">{{ remedy.word }}</v-btn>
        <router-link class="act" :to="{ name: 'codebook', params: { study: study.id, variable: finding.variable } }" data-test="see-variable">see the tag</router-link>
        <router-link v-if="finding.family === 'rules'" class="act" :to="{ query: { show: 'rules' } }">see the rule</router-link>
        <button class="act" data-test="accept" @click="emit('accept')">accept…</button>
      </div>
      <p v-if="alone" class="effect" role="status">
        <span data-test="effect">{{ remedies.said.value }}</span>
        <v-btn v-if="remedies.possible.value" variant="flat" color="primary" :disabled="remedies.taking.value" data-test="do-remedy" @click="remedies.take">Do it</v-btn>
      </p>
    </div>
    <span class="count">{{ finding.count ? count(finding.count) : '' }}</span>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  gap: 12px;
  align-items: start;
  padding: 9px 14px;
  font-size: 13.5px;
  border-bottom: 1px solid var(--line);
}

.row.chosen {
  border: 1px solid var(--edge);
  border-radius: 8px;
  background: var(--white);
}

i {
  width: 12px;
  height: 12px;
  border-radius: 2px;
  flex: none;
  margin-top: 4px;
  background: var(--edge);
}

.error i {
  background: var(--beet);
}

.warning i {
  background: repeating-linear-gradient(135deg, var(--straw) 0 2.5px, var(--straw-pale) 2.5px 5px);
}

.words {
  flex: 1;
  min-width: 0;
}

.choose {
  text-align: left;
  width: 100%;
}

.effect {
  margin-top: 6px;
  padding: 4px 10px;
  border-left: 3px solid var(--leaf);
  background: var(--sheet);
}

.effect .act {
  margin-left: 10px;
}

.ways {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 14px;
  margin-top: 6px;
}

.count {
  min-width: 40px;
  text-align: right;
  color: var(--soft);
}
</style>
