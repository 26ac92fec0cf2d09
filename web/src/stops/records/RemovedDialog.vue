<script setup lang="ts">
/** Records that were removed, told by their numbers and first entries: those that are chosen are put back. */
import { computed, ref, watch } from 'vue'

import type { AnyStep, Schema } from '@/api/client'
import { say } from '@/study/notices'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'

const props = defineProps<{ removed: Schema['RemovedRecords'] }>()
const open = defineModel<boolean>({ required: true })
const study = useStudy()
const chosen = ref<number[]>([])
const sought = ref('')
watch(open, () => {
  chosen.value = []
  sought.value = ''
})

const shown = computed(() => {
  const wanted = sought.value.trim().toLowerCase()
  const fits = ({ record, entries }: Schema['RemovedRecord']) => [String(record), ...entries].some((text) => text.toLowerCase().includes(wanted))
  return wanted ? props.removed.records.filter(fits) : props.removed.records
})
const allChosen = computed({
  get: () => shown.value.length > 0 && shown.value.every(({ record }) => chosen.value.includes(record)),
  set: (all) => (chosen.value = all ? shown.value.map(({ record }) => record) : []),
})

async function putBack(): Promise<void> {
  const outcome = await study.take({ do: 'restore records', format: 1, records: [...chosen.value].sort((a, b) => a - b) } as AnyStep)
  if (!outcome) return
  say(outcome.sentence)
  open.value = false
}
</script>

<template>
  <v-dialog v-model="open" max-width="760">
    <form class="panel dialog" aria-label="Removed records" data-test="removed" @submit.prevent="putBack">
      <h2>{{ counted(removed.count, 'removed record') }}</h2>
      <p class="soft">Those that are chosen come back where they stood, with all their entries.<template v-if="removed.records.length < removed.count"> The first {{ count(removed.records.length) }} are shown.</template></p>
      <input v-model="sought" class="find boxed" placeholder="Find by number or entry" aria-label="Find among the removed records" spellcheck="false" data-test="find-removed" />
      <div class="rows">
        <table>
          <thead>
            <tr>
              <th><input v-model="allChosen" type="checkbox" aria-label="Choose all that are shown" data-test="choose-all-removed" /></th>
              <th>record</th>
              <th v-for="name in removed.variables" :key="name" class="mono">{{ name }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="{ record, entries } in shown" :key="record">
              <td><input v-model="chosen" type="checkbox" :value="record" :aria-label="`Record ${record}`" :data-test="`removed-${record}`" /></td>
              <td class="mono">{{ count(record) }}</td>
              <td v-for="(entry, at) in entries" :key="at" class="mono entry" :title="entry">{{ entry }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="!shown.length" class="soft">None of them holds this.</p>
      </div>
      <div class="foot">
        <v-btn @click="open = false">Leave them</v-btn>
        <v-btn type="submit" variant="flat" color="primary" :disabled="!chosen.length" data-test="put-back">Put {{ chosen.length ? counted(chosen.length, 'record') : 'records' }} back</v-btn>
      </div>
    </form>
  </v-dialog>
</template>

<style scoped>
p {
  margin: 4px 0 12px;
}

.find {
  width: 260px;
}

.rows {
  max-height: 46vh;
  overflow: auto;
  margin-top: 10px;
}

table {
  width: 100%;
  border-collapse: collapse;
  font-size: 13px;
}

th,
td {
  height: 30px;
  padding: 0 10px 0 0;
  border-bottom: 1px solid var(--line);
  text-align: left;
  font-weight: 400;
}

th {
  position: sticky;
  top: 0;
  background: var(--white);
  color: var(--soil);
}

.entry {
  max-width: 130px;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
</style>
