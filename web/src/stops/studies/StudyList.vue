<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, formOf, got, type Schema } from '@/api/client'
import { attempt, say } from '@/study/notices'
import StudyRow from './StudyRow.vue'

type Entry = Schema['Entry']

const router = useRouter()
const entries = ref<Entry[] | null>(null)
const title = ref('')
const showRemoved = ref(false)
const present = computed(() => entries.value?.filter((each) => !each.removed_at) ?? [])
const removed = computed(() => entries.value?.filter((each) => each.removed_at) ?? [])

async function load(): Promise<void> {
  entries.value = (await attempt(() => got(api.GET('/api/studies')))) ?? []
}

async function create(): Promise<void> {
  const made = await attempt(() => got(api.POST('/api/studies', { body: { title: title.value } })))
  if (made) await router.push({ name: 'intake', params: { study: made.id } })
}

/** A study that was carried here in one file. */
async function openCarried(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  const made = await attempt(() => got(api.POST('/api/studies/carried', formOf(file))))
  input.value = ''
  if (!made) return
  say(`“${made.title}” was opened as it was carried here.`)
  await load()
}

async function openDemo(): Promise<void> {
  const made = await attempt(() => got(api.POST('/api/studies/demo')))
  if (made) await router.push({ name: 'codebook', params: { study: made.id } })
}

async function rename(entry: Entry, to: string): Promise<void> {
  const path = { study_id: entry.id }
  await attempt(() => got(api.PATCH('/api/studies/{study_id}', { params: { path }, body: { title: to } })))
  await load()
}

async function remove(entry: Entry): Promise<void> {
  const path = { study_id: entry.id }
  const done = await attempt(() => got(api.DELETE('/api/studies/{study_id}', { params: { path } })))
  if (done) say(`“${entry.title}” was removed. It can be restored below.`)
  await load()
}

async function restore(entry: Entry): Promise<void> {
  const path = { study_id: entry.id }
  await attempt(() => got(api.POST('/api/studies/{study_id}/restore', { params: { path } })))
  await load()
}

onMounted(load)
</script>

<template>
  <main class="all scroll" data-room tabindex="-1">
    <div class="column">
      <header>
        <svg viewBox="0 0 44 30" width="66" height="45" aria-hidden="true">
          <path d="M2 15 12 4h30v22H12Z" fill="#2F6B4F" />
          <circle cx="13" cy="15" r="2.4" fill="#FBFAF4" />
          <text x="19" y="20.5" font-weight="800" font-size="14" fill="#FBFAF4" class="mono">RT</text>
        </svg>
        <div>
          <h1>Row Tag</h1>
          <p class="soft">From collected answers to data that can be analysed.</p>
        </div>
      </header>

      <form class="new" @submit.prevent="create">
        <v-text-field v-model="title" label="Title of a new study" data-test="new-title" />
        <v-btn type="submit" variant="flat" color="primary" :disabled="!title.trim()" data-test="create">New study</v-btn>
        <label class="act carried">open one that was carried here<input type="file" accept=".rowtag,.sqlite" class="hidden" data-test="open-carried" @change="openCarried" /></label>
      </form>

      <template v-if="entries">
        <section v-if="present.length" class="panel" aria-label="Studies">
          <StudyRow
            v-for="entry in present" :key="entry.id" :entry="entry"
            @rename="rename(entry, $event)" @remove="remove(entry)" @restored="load"
          />
        </section>
        <section v-else class="empty">
          <h2>No study yet</h2>
          <p>Give a new study a title and bring a file in, or look around in the demo: the plot holders of the Fennel Row Allotments.</p>
        </section>
        <p v-if="!present.some((each) => each.id === 'demo')" class="demo">
          <button class="act" data-test="demo" @click="openDemo">Open the demo study</button>
        </p>

        <section v-if="removed.length" class="removed">
          <button class="act" :aria-expanded="showRemoved" data-test="show-removed" @click="showRemoved = !showRemoved">
            {{ showRemoved ? 'Hide' : 'Show' }} removed studies ({{ removed.length }})
          </button>
          <div v-if="showRemoved" class="panel">
            <StudyRow v-for="entry in removed" :key="entry.id" :entry="entry" @restore="restore(entry)" />
          </div>
        </section>
      </template>
    </div>
  </main>
</template>

<style scoped>
.all {
  background: var(--paper);
}

.column {
  max-width: 880px;
  margin: 0 auto;
  padding: 56px 20px;
}

header {
  display: flex;
  gap: 18px;
  align-items: center;
  margin-bottom: 30px;
}

h1 {
  font-size: 28px;
  font-weight: 700;
  letter-spacing: -0.3px;
  line-height: 1.2;
}

.new {
  display: flex;
  gap: 10px;
  align-items: center;
  margin-bottom: 22px;
}

.new .v-btn {
  height: 34px;
}

.demo,
.removed {
  margin-top: 22px;
}

.removed .panel {
  margin-top: 10px;
}

.empty {
  margin-top: 40px;
}

.carried {
  align-self: center;
  white-space: nowrap;
}

.hidden {
  position: absolute;
  width: 1px;
  height: 1px;
  opacity: 0;
}
</style>
