<script setup lang="ts">
/** An empty study: a file, variables typed first, a document that describes them, or the codebook of another study. */
import { onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { api, got, newId, type Schema } from '@/api/client'
import { DOCUMENT_ENDINGS, useSheets } from '@/sheet/sheets'
import { attempt } from '@/study/notices'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import WorkBar from '@/parts/WorkBar.vue'
import FileDrop from './FileDrop.vue'

const props = defineProps<{ busy: boolean; document: File | null }>()
defineEmits<{ file: [file: File] }>()

const study = useStudy()
const sheets = useSheets()
const router = useRouter()
const names = ref('')
const others = ref<Schema['Entry'][]>([])
const other = ref('')

onMounted(async () => {
  const all = (await attempt(() => got(api.GET('/api/studies')))) ?? []
  others.value = all.filter((each) => each.id !== study.id && !each.removed_at && each.variables)
})

const onward = (): Promise<unknown> => router.push({ name: 'codebook', params: { study: study.id } })

/** Each line is a name and, behind it, a label. */
async function define(): Promise<void> {
  const lines = names.value.split('\n').map((line) => line.trim()).filter(Boolean)
  const variables = lines.map((line) => {
    const [name = '', ...label] = line.split(/[\s=:–]+/)
    return { id: newId(), tag: { name, label: label.join(' '), type: 'integer' } }
  })
  const step = { do: 'add variables', variables } as unknown as Parameters<typeof study.take>[0]
  if (await study.take(step)) await onward()
}

const picker = ref<HTMLInputElement>()
const reading = ref(false)

/** A questionnaire or codebook is kept beside the study; what it describes is looked at, changed where wanted, added. */
async function takeDocument(file: File | null | undefined): Promise<void> {
  if (!file) return
  reading.value = true
  try {
    const found = await sheets.read(file)
    const kept = found && (await sheets.keep(found.name, found.text))
    if (!kept) return
    sheets.beginning = kept
    sheets.comparing = true
    await onward()
  } finally {
    reading.value = false
    if (picker.value) picker.value.value = ''
  }
}

watch(() => props.document, takeDocument)

async function takeCodebook(): Promise<void> {
  const path = { study_id: study.id }
  const body = { other: other.value, step_id: newId() }
  const done = await attempt(() => got(api.POST('/api/studies/{study_id}/codebook-from', { params: { path }, body })))
  if (!done) return
  await study.refresh()
  await onward()
}
</script>

<template>
  <div class="start scroll">
    <FileDrop :busy="busy" title="Drop a file here" class="file" @file="$emit('file', $event)" />
    <div class="without">
      <form class="panel way" @submit.prevent="define">
        <h3>Start with an empty study</h3>
        <p class="soft">Define variables first and key the records in later. One a line: a name, then its label.</p>
        <textarea
          v-model="names" rows="5" spellcheck="false" class="mono" aria-label="Names of variables" data-test="names"
          placeholder="plot Plot number&#10;tenure How the plot is held&#10;hours Hours in a usual week"
        />
        <v-btn type="submit" :disabled="!names.trim()" data-test="define-first">Define these</v-btn>
      </form>
      <form class="panel way" @submit.prevent="picker?.click()">
        <h3>Start from a questionnaire or codebook</h3>
        <p class="soft">A document (.docx, .odt, .pdf …), a text, a table or a form: its questions become variables. You look at them and change what you like before they are added; it stays beside them.</p>
        <input
          ref="picker" type="file" class="picker" tabindex="-1" aria-label="Questionnaire or codebook" data-test="document-first"
          :accept="DOCUMENT_ENDINGS" @change="takeDocument(picker?.files?.[0])"
        />
        <WorkBar v-if="sheets.reading" :job="sheets.reading" @cancel="sheets.stopReading" />
        <v-btn v-else type="submit" :loading="reading">Choose a document</v-btn>
      </form>
      <form class="panel way" @submit.prevent="takeCodebook">
        <h3>Start like another study</h3>
        <p class="soft">Names, labels, code lists and missing codes of another study, without its records.</p>
        <select v-model="other" aria-label="Study whose codebook is taken" data-test="other-study" :disabled="!others.length">
          <option value="" disabled>{{ others.length ? 'Choose a study' : 'No other study has variables yet' }}</option>
          <option v-for="each in others" :key="each.id" :value="each.id">{{ each.title }} · {{ counted(each.variables, 'variable') }}</option>
        </select>
        <v-btn type="submit" :disabled="!other" data-test="take-codebook">Take its codebook</v-btn>
      </form>
    </div>
  </div>
</template>

<style scoped>
.start {
  height: 100%;
  padding: 24px;
  display: grid;
  grid-template-rows: minmax(280px, 1fr) auto;
  gap: 20px;
}

.without {
  display: grid;
  grid-template-columns: 1fr 1fr 1fr;
  gap: 20px;
}

.way :deep(.work) {
  flex-wrap: wrap;
}

.way {
  position: relative;
  padding: 16px 20px 18px;
  display: flex;
  flex-direction: column;
  gap: 8px;
}

h3 {
  font-size: 15px;
  font-weight: 650;
}

textarea,
select {
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 6px 10px;
  font-size: 13px;
}

.picker {
  position: absolute;
  opacity: 0;
  width: 1px;
  height: 1px;
}

textarea {
  resize: vertical;
  min-height: 96px;
}

textarea::placeholder {
  color: var(--dim);
  opacity: 1;
}

select {
  height: 33px;
}

.v-btn {
  align-self: flex-start;
  margin-top: auto;
}
</style>
