<script setup lang="ts">
/** Tags as codebook text: copied, edited, or put onto tags; what would be otherwise is shown before it is one step. */
import { refDebounced } from '@vueuse/core'
import { computed, onMounted, ref, watch } from 'vue'

import { type AnyStep, api, got, type Schema } from '@/api/client'
import { orRefusal } from '@/api/refusal'
import { useAsked } from '@/study/asked'
import { attempt, say } from '@/study/notices'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { useChosen } from './chosen'
import { usePanel } from './panel'
import PanelShell from './PanelShell.vue'

const study = useStudy()
const chosen = useChosen()
const panel = usePanel()
/** Text that was pasted is put onto the chosen tags; text of variables that are new is added; else their own is edited. */
const pasted = panel.pasted
const fresh = panel.fresh
const all = ref(false)
const text = ref('')
const was = ref('')
const field = ref<HTMLTextAreaElement>()

const ids = computed(() => (all.value || fresh ? [] : chosen.ids))
const ask = (variables: string[]): Promise<Schema['NotationText']> =>
  got(api.POST('/api/studies/{study_id}/notation', { params: { path: { study_id: study.id } }, body: { variables } }))

async function load(): Promise<void> {
  const answer = await attempt(() => ask(ids.value))
  if (answer) text.value = was.value = answer.text
}
watch(all, load)
onMounted(async () => {
  if (pasted || fresh) text.value = pasted || fresh
  else await load()
  field.value?.focus()
})

const settled = refDebounced(text, 250)
/** What the text means, or why it cannot be read. */
const read = (written: string): ReturnType<typeof orRefusal<Schema['NotationReading']>> => {
  const body = { text: written, variables: ids.value, whole: !pasted }
  return orRefusal(got(api.POST('/api/studies/{study_id}/notation/read', { params: { path: { study_id: study.id } }, body })))
}
const looked = useAsked(
  'text',
  () => [study.id, settled.value !== was.value ? settled.value : '', ids.value, study.revision] as const,
  ([, written]) => (written.trim() ? read(written) : null),
)
const found = computed(() => looked.value?.[0] ?? null)
const problem = computed(() => looked.value?.[1] ?? null)

/** Puts the cursor where the text could not be read. */
function goTo(): void {
  const { row = 1, character = 1 } = (problem.value?.where ?? {}) as { row?: number; character?: number }
  if (!field.value) return
  const above = text.value.split('\n').slice(0, row - 1)
  const at = above.reduce((sum, line) => sum + line.length + 1, 0) + character - 1
  field.value.focus()
  field.value.setSelectionRange(at, at)
}

async function copy(): Promise<void> {
  field.value?.select()
  try {
    await navigator.clipboard.writeText(text.value)
    say(`Copied ${counted(text.value.trim().split('\n').length, 'line')} of codebook text.`)
  } catch {
    say('The browser keeps its clipboard to itself: the text is marked, Ctrl+C copies it.')
  }
}

const lead = computed(() => {
  if (fresh) return 'What the sheet says of variables that the study does not have. Change what you like, take out what is not wanted: nothing is added before you apply it.'
  if (pasted) return `Pasted text, put onto ${counted(chosen.ids.length, 'tag')}: a single description goes onto all of them, several go by their names. What it leaves out stays.`
  return 'All that these tags say. What you take out is cleared, other names are new variables; no variable is removed.'
})
const why = computed(() => {
  if (problem.value) return 'The text cannot be read as it is.'
  return found.value || !text.value.trim() || text.value === was.value ? 'The text says what stands in the study.' : ''
})
</script>

<template>
  <PanelShell
    title="Codebook text" word="Apply" :step="problem ? null : (found?.step as AnyStep | null | undefined)" :why="why"
    :lead="lead"
  >
    <div class="row">
      <label v-if="!pasted && !fresh"><input v-model="all" type="checkbox" data-test="text-all" /> the whole codebook, not only {{ counted(chosen.ids.length, 'tag') }}</label>
      <span class="grow" />
      <button class="act" data-test="copy-text" @click="copy">copy all</button>
    </div>
    <textarea ref="field" v-model="text" class="mono" aria-label="Codebook text" spellcheck="false" data-test="codebook-text" />
    <p v-if="problem" class="beet said" role="alert" data-test="text-problem">{{ problem.detail }} <button v-if="problem.where.row" class="act" data-test="go-there" @click="goTo">go there</button></p>
    <template v-else-if="found">
      <p v-if="found.new.length" class="said" data-test="text-new">{{ pasted ? 'Not in the study, left out:' : `${counted(found.new.length, 'new variable')}:` }} <b class="mono">{{ found.new.slice(0, 8).join(', ') }}{{ found.new.length > 8 ? ' …' : '' }}</b></p>
      <p v-if="found.absent.length && !fresh" class="said soft">{{ counted(found.absent.length, 'tag') }} not in the text: left as they are.</p>
      <table v-if="found.differs.length" data-test="text-differs">
        <thead><tr><th>variable</th><th>part</th><th>now</th><th>then</th></tr></thead>
        <tbody v-for="each in found.differs.slice(0, 200)" :key="each.variable">
          <tr v-for="(one, at) in each.differences" :key="one.key">
            <td class="mono">{{ at ? '' : study.byId.get(each.variable)?.name }}</td><td class="soft">{{ one.part }}</td>
            <td class="soft">{{ one.study }}</td><td>{{ one.sheet }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="found.differs.length > 200" class="soft">and {{ count(found.differs.length - 200) }} more tags</p>
    </template>
  </PanelShell>
</template>

<style scoped>
.row {
  display: flex;
  font-size: 13px;
  min-height: 26px;
  align-items: center;
}

.row label {
  display: flex;
  gap: 6px;
  align-items: center;
}

textarea {
  width: 100%;
  height: 46vh;
  min-height: 160px;
  resize: vertical;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 10px 12px;
  font-size: 13px;
  line-height: 20px;
  white-space: pre;
  tab-size: 4;
}

.said {
  margin-top: 8px;
  font-size: 13px;
}

table {
  margin-top: 8px;
}

td {
  overflow-wrap: anywhere;
  vertical-align: top;
}
</style>
