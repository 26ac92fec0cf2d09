<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'

import { api, formOf, got, type Schema } from '@/api/client'
import { attempt, say } from '@/study/notices'
import { waiting } from '@/stops/intake/dropped'
import StudyRow from './StudyRow.vue'

type Entry = Schema['Entry']

const router = useRouter()
const entries = ref<Entry[] | null>(null)
const title = ref('')
const text = ref('')
const showRemoved = ref(false)
/** Whether a file is held over the page. */
const over = ref(false)
const present = computed(() => entries.value?.filter((each) => !each.removed_at) ?? [])
/** Those whose title, or what was done last in them, holds all the words that are typed. */
const found = computed(() => {
  const words = text.value.toLowerCase().split(/\s+/).filter(Boolean)
  return present.value.filter((each) => words.every((word) => `${each.title} ${each.seen?.last ?? ''}`.toLowerCase().includes(word)))
})
const removed = computed(() => entries.value?.filter((each) => each.removed_at) ?? [])

async function load(): Promise<void> {
  entries.value = (await attempt(() => got(api.GET('/api/studies')))) ?? []
}

async function create(): Promise<void> {
  const made = await attempt(() => got(api.POST('/api/studies', { body: { title: title.value } })))
  if (made) await router.push({ name: 'intake', params: { study: made.id } })
}

/** The first that was found. */
function openFirst(): void {
  const first = found.value[0]
  if (first) void router.push({ name: first.variables ? 'codebook' : 'intake', params: { study: first.id } })
}

/** A study begins with the file that was dropped, and is called like it; one that was carried is opened as it is. */
async function begin(file: File | undefined): Promise<void> {
  over.value = false
  if (!file) return
  if (file.name.endsWith('.rowtag')) return takeCarried(file)
  title.value = title.value.trim() || file.name.replace(/(\.[a-z0-9]{1,7})+$/i, '').replaceAll('_', ' ') || file.name
  waiting.value = file
  await create()
}

/** A study that was carried here in one file. */
async function openCarried(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (file) await takeCarried(file)
  input.value = ''
}

async function takeCarried(file: File): Promise<void> {
  const made = await attempt(() => got(api.POST('/api/studies/carried', formOf(file))))
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
  <main
    class="all scroll" :class="{ over }" data-room tabindex="-1" data-test="studies"
    @dragover.prevent="over = true" @dragleave.self="over = false" @drop.prevent="begin($event.dataTransfer?.files[0])"
  >
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

      <form v-if="entries" class="new" @submit.prevent="create">
        <span class="named" data-test="new-title"><input v-model="title" class="boxed" placeholder="Title of a new study" aria-label="Title of a new study"></span>
        <v-btn type="submit" variant="flat" color="primary" :disabled="!title.trim()" data-test="create">New study</v-btn>
        <label class="act carried">open one that was carried here<input type="file" accept=".rowtag,.sqlite" class="hidden" data-test="open-carried" @change="openCarried" /></label>
      </form>

      <template v-if="entries">
        <input
          v-if="present.length > 1" v-model="text" class="boxed find" type="search" data-home placeholder="Find a study by its title or what was done last" aria-label="Find a study"
          data-test="find-study" @keydown.enter="openFirst" @keydown.esc="text = ''"
        />
        <section v-if="present.length" class="panel" aria-label="Studies">
          <p v-if="!found.length" class="none soft">Nothing found.</p>
          <StudyRow
            v-for="entry in found" :key="entry.id" :entry="entry"
            @rename="rename(entry, $event)" @remove="remove(entry)" @restored="load"
          />
        </section>
        <section v-else class="empty">
          <h2>No study yet</h2>
          <p>Drop a file with collected answers here, or the questionnaire that describes them: a study begins with it. Or give a new study a title first.</p>
        </section>
        <p v-if="present.length" class="soft hint">A file or document dropped on this page begins a study of its own.</p>
        <p v-if="!present.some((each) => each.id === 'demo')" class="demo">
          <button class="act" data-test="demo" @click="openDemo">Open the demo study</button>
          <span class="soft"> the plot holders of the Fennel Row Allotments: 1,204 records, 54 variables, and everything that can go wrong with them</span>
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

.over {
  outline: 2px dashed var(--leaf);
  outline-offset: -10px;
}

.find {
  width: 100%;
  margin-bottom: 10px;
}

.none,
.hint {
  padding: 12px 18px;
  font-size: 13px;
}

.new {
  display: flex;
  gap: 10px;
  align-items: center;
  margin-bottom: 22px;
}

.new .v-btn,
.boxed {
  height: 34px;
}

.named {
  flex: 1;
}

.named .boxed {
  width: 100%;
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
