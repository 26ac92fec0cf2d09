<script setup lang="ts">
/** Tags that belong together become a battery with a title, or stand alone again. */
import { computed, ref } from 'vue'

import { type AnyStep, newId } from '@/api/client'
import { useStudy } from '@/study/store'
import { useChosen } from './chosen'
import { usePanel } from './panel'
import PanelShell from './PanelShell.vue'

const study = useStudy()
const chosen = useChosen()
const panel = usePanel()
const known = computed(() => Object.entries(study.overview?.batteries ?? {}))
const now = study.byId.get(chosen.ids[0] ?? '')?.battery ?? null
const title = ref(now ? (study.overview?.batteries[now] ?? '') : '')
const fresh = newId().slice(0, 12)
const grouped = computed(() => chosen.ids.some((id) => study.byId.get(id)?.battery))
const step = computed<AnyStep | null>(() => {
  const wanted = title.value.trim()
  if (!wanted) return null
  const battery = known.value.find(([, each]) => each.toLowerCase() === wanted.toLowerCase())?.[0] ?? (now && chosen.ids.every((id) => study.byId.get(id)?.battery === now) ? now : fresh)
  return { do: 'group', format: 1, battery, title: wanted, variables: chosen.ids }
})
</script>

<template>
  <PanelShell title="Battery" word="Group" :step="step" why="Give the battery a title." :lead="`${chosen.ids.length} tags that were asked as one block. They share a heading in the list, and tables can show them together.`">
    <div class="fields">
      <label>title
        <input v-model="title" list="batteries" data-test="battery-title" @keydown.enter.prevent="step && panel.take(step)" />
        <datalist id="batteries"><option v-for="[id, each] in known" :key="id" :value="each" /></datalist>
      </label>
    </div>
    <button v-if="grouped" class="act" data-test="ungroup" @click="panel.take({ do: 'ungroup', format: 1, variables: chosen.ids })">Take them out of their battery</button>
  </PanelShell>
</template>

<style scoped>
.fields {
  max-width: 420px;
  margin-bottom: 12px;
}
</style>
