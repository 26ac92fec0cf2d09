<script setup lang="ts">
/** Where answers lead: who gave one goes on further down, and has no entries in between. */
import { computed, nextTick, ref } from 'vue'

import type { CodebookPage, Schema } from '@/api/client'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import type { Page } from './page'

type Shown = Schema['SkipShown']

const props = defineProps<{ page: CodebookPage; actions: Page }>()
const study = useStudy()

const typing = ref(false)
const typed = ref('')
const field = ref<HTMLInputElement>()
const skips = computed(() => props.page.skips.map((each) => each.skip))
const name = (id: string | null | undefined): string => (id ? (study.byId.get(id)?.name ?? '') : 'the end')
const labels = computed(() => new Map(props.page.codes.map((line) => [line.code, line.label])))
const answer = (code: string): string => [code, labels.value.get(code)].filter(Boolean).join(' ')
const passed = (shown: Shown): string => shown.passes.map(name).join(', ')

const confirm = (shown: Shown): Promise<unknown> =>
  props.actions.lead(skips.value.map((skip) => (skip === shown.skip ? { ...skip, proposed: false } : skip)))
const drop = (shown: Shown): Promise<unknown> => props.actions.lead(skips.value.filter((skip) => skip !== shown.skip))

/** What was typed as a skip; a sentence where it is none. */
const read = computed<Schema['Skip'] | string>(() => {
  const [, codes, to] = /^(.*?)\s*(?:->|→)\s*(.*)$/.exec(typed.value.trim()) ?? []
  if (!codes || !to) return 'Type codes, an arrow and a name, such as 2, 3 -> hours, or -> end.'
  const target = study.variables.find((each) => each.name.toLowerCase() === to.toLowerCase())
  if (!target && to.toLowerCase() !== 'end') return `No variable is called ${to}.`
  return { codes: codes.split(',').map((code) => code.trim()).filter(Boolean), to: target?.id ?? null, proposed: false, said: '' }
})

async function begin(): Promise<void> {
  typing.value = true
  await nextTick()
  field.value?.focus()
}

async function keep(): Promise<void> {
  if (typeof read.value === 'string') return
  const fresh = read.value
  const rest = skips.value.filter((skip) => skip.codes.join() !== fresh.codes.join())
  if (await props.actions.lead([...rest, fresh])) {
    typed.value = ''
    typing.value = false
  }
}
</script>

<template>
  <section v-if="page.skips.length || page.table.coded" class="skips" aria-label="Where answers lead" data-test="skips">
    <div v-for="shown in page.skips" :key="shown.skip.codes.join()" class="skip" :class="{ proposed: shown.skip.proposed }" data-test="skip">
      <p>
        <b>{{ shown.skip.codes.map(answer).join(' or ') }}</b> → <span class="mono">{{ name(shown.skip.to) }}</span>
        <span class="soft" :title="passed(shown)"> skips {{ counted(shown.passes.length, 'variable') }}</span>
        <span v-if="shown.breaks" class="beet" data-test="breaks">; {{ shown.breaks.toLocaleString('en') }} of {{ counted(shown.takes, 'record') }} have entries there all the same</span>
        <span v-else-if="shown.takes" class="soft">; {{ counted(shown.takes, 'record') }} keep{{ shown.takes === 1 ? 's' : '' }} to it</span>
        <small v-if="shown.skip.said" class="soft"> “{{ shown.skip.said }}”</small>
      </p>
      <span class="answers">
        <button v-if="shown.skip.proposed" class="act" data-test="confirm-skip" title="From now on records that break it are a finding" @click="confirm(shown)">Confirm</button>
        <button class="act" data-test="drop-skip" @click="drop(shown)">Drop</button>
      </span>
    </div>
    <form v-if="typing" class="typed" @submit.prevent="keep">
      <input
        ref="field" v-model="typed" class="mono" aria-label="Codes, an arrow, and where they lead" placeholder="2, 3 -> name"
        spellcheck="false" data-test="skip-text" @keydown.esc="typing = false"
      />
      <small v-if="typed && typeof read === 'string'" class="soft" role="status">{{ read }}</small>
      <button v-else-if="typed" class="act" data-test="keep-skip">Keep</button>
    </form>
    <button v-else class="act" data-test="new-skip" @click="begin">An answer skips questions…</button>
  </section>
</template>

<style scoped>
.skips {
  margin-top: 12px;
  font-size: 13px;
}

.skip {
  display: flex;
  gap: 12px;
  justify-content: space-between;
  padding: 5px 10px;
  margin-bottom: 4px;
  border-left: 3px solid var(--leaf);
  background: var(--sheet);
}

.proposed {
  border-left: 3px dashed var(--straw);
}

.answers {
  display: flex;
  gap: 8px;
  flex: none;
}

.typed {
  display: flex;
  gap: 10px;
  align-items: center;
}

.typed input {
  width: 260px;
  min-height: 28px;
  padding: 2px 8px;
  border: 1px solid var(--edge);
  border-radius: 4px;
}
</style>
