<script setup lang="ts">
/** The backups of a study; each can be taken back as a study of its own. */
import { onMounted, ref } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { attempt, say } from '@/study/notices'
import { bytes, moment } from '@/study/shown'

const props = defineProps<{ entry: Schema['Entry'] }>()
const emit = defineEmits<{ restored: [] }>()
const found = ref<Schema['Backup'][] | null>(null)

async function load(): Promise<void> {
  const path = { study_id: props.entry.id }
  found.value = (await attempt(() => got(api.GET('/api/studies/{study_id}/backups', { params: { path } })))) ?? []
}

async function restore(name: string): Promise<void> {
  const path = { study_id: props.entry.id, name }
  const made = await attempt(() => got(api.POST('/api/studies/{study_id}/backups/{name}/restore', { params: { path } })))
  if (made) {
    say(`“${made.title}” stands beside the study as it is now.`)
    emit('restored')
  }
}

onMounted(load)
defineExpose({ load })
</script>

<template>
  <div class="backups" data-test="backups">
    <p v-if="found && !found.length" class="soft">No backup yet. “back up” makes one, while others go on working.</p>
    <div v-for="each in found ?? []" :key="each.name" class="backup" data-test="backup">
      <span>{{ moment(each.at) }}</span>
      <span class="soft grow">{{ bytes(each.size) }}</span>
      <button class="act" data-test="restore-backup" @click="restore(each.name)">restore as a study of its own</button>
    </div>
  </div>
</template>

<style scoped>
.backups {
  padding: 0 18px 12px 34px;
  font-size: 13px;
}

.backup {
  display: flex;
  gap: 16px;
  align-items: baseline;
  padding: 5px 0;
}
</style>
