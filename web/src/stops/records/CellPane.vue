<script setup lang="ts">
/** Beside the grid: the whole text of the chosen entry, comfortably, the answers before and behind it, and comments. */
import { computed, nextTick, ref, useTemplateRef } from 'vue'

import { type AnyStep, api, got, newId } from '@/api/client'
import { useKeys } from '@/frame/keys'
import type { Cell } from '@/session/cells'
import { useAsked } from '@/study/asked'
import { attempt, say } from '@/study/notices'
import { count } from '@/study/shown'
import { useStudy } from '@/study/store'
import { wordsOf } from './shown'
import { type RowsPage, useRecordView } from './view'

const props = defineProps<{ variable: string | null; row: number; record: number | null; cell: Cell | null }>()
const emit = defineEmits<{ go: [row: number, variable: string]; close: [] }>()
const study = useStudy()
const view = useRecordView()

const tag = computed(() => (props.variable ? (study.byId.get(props.variable) ?? null) : null))
const sought = ref('')
/** The text in parts, of which every second is what is sought. */
const parts = computed(() => {
  const [text, needle] = [props.cell?.text ?? '', sought.value.trim()]
  if (!needle) return [text]
  return text.split(new RegExp(`(${needle.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')})`, 'gi'))
})

/** Rows of one look for the next answer. */
const LOOK = 1_000
const looking = ref(false)

/** Goes to the next answer below, or above, that is not blank and holds what is sought. */
async function toAnswer(by: 1 | -1): Promise<void> {
  if (!props.variable || looking.value) return
  looking.value = true
  const [variable, needle, path] = [props.variable, sought.value.trim().toLowerCase(), { study_id: study.id }]
  try {
    for (let from = props.row + by; from >= 0 && from < view.rows; from += by * LOOK) {
      const [start, stop] = by > 0 ? [from, from + LOOK] : [Math.max(0, from - LOOK + 1), from + 1]
      const query = { ...view.query, start, stop, variables: variable }
      const page = (await attempt(() => got(api.GET('/api/studies/{study_id}/records', { params: { path, query } })))) as unknown as RowsPage | undefined
      const column = page?.columns[0]
      if (!column) return
      const holds = column.texts.map((text) => text.trim() !== '' && text.toLowerCase().includes(needle))
      const at = by > 0 ? column.index.findIndex((each) => holds[each]) : column.index.findLastIndex((each) => holds[each])
      if (at >= 0) return emit('go', start + at, variable)
    }
    say(`No ${needle ? `answer with “${sought.value.trim()}”` : 'answer'} ${by > 0 ? 'further down' : 'further up'}.`)
  } finally {
    looking.value = false
  }
}
useKeys({ 'next answer': () => void toAnswer(1), 'previous answer': () => void toAnswer(-1) })

// Comments ---------------------------------------------------------------------------------------

const comments = useAsked(
  'comments',
  () => [study.id, study.stamp({ shelves: ['comment'], records: true }), view.query] as const,
  ([study_id, , query]) => (study_id ? got(api.GET('/api/studies/{study_id}/comments', { params: { path: { study_id }, query } })) : null),
)
/** Comments that are listed. */
const LISTED = 200
const here = computed(() => (comments.value ?? []).filter(({ on }) => on.record === props.record && (on.variable === null || on.variable === props.variable)))
const text = ref('')
const whole = ref(false)
const field = useTemplateRef<HTMLTextAreaElement>('field')

async function remark(): Promise<void> {
  if (!text.value.trim() || props.record === null || props.record < 0) return
  const on = { record: props.record, variable: whole.value ? null : props.variable, text: text.value.trim() }
  if (await study.take({ do: 'remark', format: 1, comment: newId(), on } as AnyStep)) text.value = ''
}
const takeBack = (id: string): Promise<unknown> => study.take({ do: 'take remarks back', format: 1, comments: [id] } as AnyStep)

/** Walks the comments from the one chosen on. */
function toComment(by: 1 | -1): void {
  const all = (comments.value ?? []).filter((each) => each.row !== null)
  const order = (row: number, variable: string | null): number => row * 100_000 + study.variables.findIndex((each) => each.id === variable)
  const now = order(props.row, props.variable)
  const found = by > 0 ? all.find((each) => order(each.row!, each.on.variable ?? null) > now) : all.findLast((each) => order(each.row!, each.on.variable ?? null) < now)
  if (found) emit('go', found.row!, found.on.variable ?? study.variables[0]!.id)
  else say(all.length ? 'No comment is further on.' : 'There is no comment among these records.')
}

async function write(): Promise<void> {
  await nextTick()
  field.value?.focus()
}
defineExpose({ write })
</script>

<template>
  <aside class="pane scroll" aria-label="The chosen entry" data-test="pane">
    <header>
      <b class="mono">{{ tag?.name }}</b> <span class="soft">{{ record !== null && record > 0 ? `record ${count(record)}` : 'new record' }}</span>
      <span class="grow" /><button class="off" aria-label="Close" title="Close (Alt+R)" @click="emit('close')">×</button>
    </header>
    <p v-if="tag?.question || tag?.label" class="ask">{{ tag.question || tag.label }}</p>
    <blockquote v-if="cell?.text.trim()" class="text" data-test="pane-text"><template v-for="(part, at) in parts" :key="at"><mark v-if="at % 2">{{ part }}</mark><template v-else>{{ part }}</template></template></blockquote>
    <p v-else class="soft">blank</p>
    <p v-if="cell && cell.state !== 0" class="soft" data-test="pane-reading">{{ wordsOf(cell) }}</p>
    <div class="line">
      <input v-model="sought" class="find" placeholder="Find in these answers" aria-label="Find in these answers" data-test="pane-find" @keydown.enter.prevent="toAnswer($event.shiftKey ? -1 : 1)" />
      <button class="act" title="Alt+↑" data-test="answer-back" @click="toAnswer(-1)">↑</button>
      <button class="act" title="Alt+↓" data-test="answer-on" @click="toAnswer(1)">↓ next</button>
    </div>
    <h3>Comments <span class="soft">{{ comments?.length ? count(comments.length) : '' }}</span> <span class="grow" /><template v-if="comments?.length"><button class="act" @click="toComment(-1)">back</button> <button class="act" data-test="comment-on" @click="toComment(1)">next</button></template></h3>
    <div v-for="each in here" :key="each.id" class="remark" data-test="remark">
      <p>{{ each.on.text }}</p>
      <small class="soft">{{ each.on.variable ? 'on this entry' : 'on the record' }} <button class="act" data-test="take-remark-back" @click="takeBack(each.id)">take back</button></small>
    </div>
    <form v-if="record !== null && record > 0" @submit.prevent="remark">
      <textarea ref="field" v-model="text" rows="2" placeholder="Checked against paper" aria-label="A comment" data-test="remark-text" @keydown.ctrl.enter.stop.prevent="remark" />
      <div class="line">
        <label><input v-model="whole" type="checkbox" data-test="remark-whole" /> on the whole record</label><span class="grow" />
        <button class="act" :disabled="!text.trim()" data-test="remark-keep">remark</button>
      </div>
    </form>
    <details v-if="comments?.length" class="all">
      <summary>all comments</summary>
      <button v-for="each in comments.slice(0, LISTED)" :key="each.id" class="listed" :disabled="each.row === null" data-test="listed-remark" @click="emit('go', each.row!, each.on.variable ?? study.variables[0]!.id)">
        <span class="soft">{{ count(each.on.record) }} <b class="mono">{{ each.on.variable ? study.byId.get(each.on.variable)?.name : '' }}</b></span> {{ each.on.text }}
      </button>
      <p v-if="comments.length > LISTED" class="soft">and {{ count(comments.length - LISTED) }} more: show only the records that bear a comment.</p>
    </details>
  </aside>
</template>

<style scoped>
.pane {
  width: 320px;
  flex: none;
  padding: 12px 18px;
  border-left: 1px solid var(--line2);
  background: var(--sheet);
  font-size: 13px;
}

header,
.line,
h3 {
  display: flex;
  align-items: center;
  gap: 10px;
  min-height: 30px;
}

.ask {
  margin: 4px 0 8px;
  font: 400 14px/1.4 var(--serif);
  color: var(--soil);
}

.text {
  margin: 0 0 8px;
  padding: 10px 14px;
  border-left: 3px solid var(--leaf);
  background: var(--white);
  font: 400 15.5px/1.5 var(--serif);
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}

mark {
  background: var(--straw-pale);
  color: inherit;
}

.find,
textarea {
  flex: 1;
  min-width: 0;
  width: 100%;
  min-height: 29px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 3px 8px;
  font-size: 13px;
}

h3 {
  margin-top: 14px;
  font-size: 13px;
  font-weight: 600;
}

.remark {
  margin-bottom: 6px;
  padding: 6px 10px;
  border-left: 3px solid var(--slate);
  background: var(--white);
  overflow-wrap: anywhere;
}

.all {
  margin-top: 14px;
}

.listed {
  display: block;
  width: 100%;
  min-height: 26px;
  padding: 2px 0;
  text-align: left;
  border-top: 1px solid var(--line);
}

.off {
  width: 24px;
  height: 24px;
  font-size: 17px;
}
</style>
