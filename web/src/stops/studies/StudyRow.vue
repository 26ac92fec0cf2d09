<script setup lang="ts">
import { nextTick, ref, useTemplateRef } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { attempt, say } from '@/study/notices'
import FillBar from '@/parts/FillBar.vue'
import { counted, moment } from '@/study/shown'
import BackupList from './BackupList.vue'

const props = defineProps<{ entry: Schema['Entry'] }>()
const emit = defineEmits<{ rename: [title: string]; remove: []; restore: []; restored: [] }>()

const renaming = ref(false)
const title = ref('')
const field = ref<HTMLInputElement>()

async function start(): Promise<void> {
  title.value = props.entry.title
  renaming.value = true
  await nextTick()
  field.value?.select()
}

function finish(): void {
  if (!renaming.value) return
  renaming.value = false
  if (title.value.trim() && title.value.trim() !== props.entry.title) emit('rename', title.value.trim())
}

// Backups ----------------------------------------------------------------------------------------

const listed = ref(false)
const list = useTemplateRef('list')

async function backUp(): Promise<void> {
  const path = { study_id: props.entry.id }
  const made = await attempt(() => got(api.POST('/api/studies/{study_id}/backups', { params: { path } })))
  if (!made) return
  say(`“${props.entry.title}” was backed up.`)
  await list.value?.load()
}

/** Beside this one another that holds the same, or its codebook alone. */
async function copy(records: boolean): Promise<void> {
  const path = { study_id: props.entry.id }
  const body = { title: `${props.entry.title}, ${records ? 'copy' : 'codebook'}`.slice(0, 200), records }
  const made = await attempt(() => got(api.POST('/api/studies/{study_id}/copy', { params: { path }, body })))
  if (!made) return
  say(`“${made.title}” stands beside it.`)
  emit('restored')
}
</script>

<template>
  <div class="row" data-test="study">
    <div class="words">
      <input
        v-if="renaming" ref="field" v-model="title" class="title-field" aria-label="Title" data-test="title-field"
        @blur="finish" @keydown.enter.prevent="finish" @keydown.esc.prevent="renaming = false"
      />
      <router-link
        v-else-if="!entry.removed_at" class="name"
        :to="{ name: entry.variables ? 'codebook' : 'intake', params: { study: entry.id } }"
      >{{ entry.title }}</router-link>
      <span v-else class="name gone">{{ entry.title }}</span>
      <div class="soft">
        {{ entry.variables ? `${counted(entry.records, 'record')} × ${counted(entry.variables, 'variable')}` : 'nothing brought in yet' }}
        · {{ entry.removed_at ? `removed ${moment(entry.removed_at)}` : `changed ${moment(entry.changed_at)}` }}
      </div>
    </div>
    <template v-if="!entry.removed_at">
      <button class="act" data-test="rename" @click="start">rename</button>
      <button class="act" data-test="back-up" @click="backUp">back up</button>
      <button class="act" data-test="show-backups" :aria-expanded="listed" @click="listed = !listed">backups</button>
      <button class="act" data-test="copy" title="A study of its own with all that this one holds" @click="copy(true)">copy</button>
      <button v-if="entry.variables" class="act" data-test="copy-codebook" title="A study of its own with its codebook, without records" @click="copy(false)">copy codebook</button>
      <a class="act" :href="`/api/studies/${entry.id}/carried`" download data-test="carry" title="One file with everything: sources, diary, editions, documents">carry</a>
      <button class="act" data-test="remove" @click="emit('remove')">remove</button>
    </template>
    <button v-else class="act" data-test="restore" @click="emit('restore')">restore</button>
    <div v-if="entry.seen && entry.variables" class="waits" data-test="waits">
      <FillBar :fill="entry.seen" class="fill" />
      <router-link v-if="entry.seen.findings" class="open" :to="{ name: 'checks', params: { study: entry.id } }">{{ counted(entry.seen.findings, 'finding') }} open</router-link>
      <span v-else class="soft">no finding open</span>
      <span v-if="entry.seen.last" class="soft cut" :title="entry.seen.last">{{ entry.seen.last }}</span>
    </div>
  </div>
  <BackupList v-if="listed" ref="list" :entry="entry" @restored="emit('restored')" />
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  align-items: center;
  padding: 12px 18px;
}

.row:not(:first-child) {
  border-top: 1px solid var(--line);
}

.words {
  flex: 1 1 260px;
  min-width: 0;
}

.name {
  font-size: 16px;
  font-weight: 650;
  color: var(--ink);
  text-decoration: none;
}

a.name:hover {
  color: var(--leaf);
}

.waits {
  flex: 0 0 100%;
  min-width: 0;
  display: flex;
  gap: 12px;
  align-items: center;
  margin-top: 2px;
  font-size: 13px;
}

.fill {
  width: 120px;
  flex: none;
}

.waits .cut {
  min-width: 0;
}

.open {
  flex: none;
  color: var(--beet);
}

.gone {
  color: var(--soft);
}

.title-field {
  font: inherit;
  font-size: 16px;
  font-weight: 650;
  width: 100%;
  border-bottom: 2px solid var(--leaf);
  outline: none;
}
</style>
