<script setup lang="ts">
/** One tag, like a page of a printed codebook whose lines carry their evidence; or several tags as one. */
import { computed, ref } from 'vue'

import type { TableRow } from '@/api/client'
import PlainField from '@/parts/PlainField.vue'
import ReasonDialog from '@/parts/ReasonDialog.vue'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { useChosen } from './chosen'
import CodeLines from './CodeLines.vue'
import FillKey from './FillKey.vue'
import MeasuredFigures from './MeasuredFigures.vue'
import { usePage } from './page'
import PageFacts from './PageFacts.vue'
import PageFindings from './PageFindings.vue'
import SharedWith from './SharedWith.vue'
import SkipLines from './SkipLines.vue'
import SpellingsNote from './SpellingsNote.vue'

const study = useStudy()
const chosen = useChosen()
const actions = usePage(() => chosen.ids)
const page = actions.page

const accepting = ref<TableRow[]>([])
const asking = computed({ get: () => accepting.value.length > 0, set: (open) => open || (accepting.value = []) })
const position = computed(() => study.variables.findIndex((each) => each.id === chosen.first))
const many = computed(() => (page.value?.ids.length ?? 0) > 1)
const key = computed(() => page.value?.ids.join() ?? '')
const differs = (part: string): boolean => page.value?.differs.includes(part) ?? false
const names = computed(() => page.value?.ids.map((id) => study.byId.get(id)?.name).join(', ') ?? '')

function step(by: number): void {
  const next = study.variables[position.value + by]
  if (next) chosen.only(next.id)
}
</script>

<template>
  <article v-if="page" class="page scroll" tabindex="-1" data-test="page">
    <div class="sheet">
      <div v-if="many" class="together" data-test="together">
        <b>{{ counted(page.ids.length, 'tag') }} together</b> <span class="mono" :title="names">{{ names }}</span>
        <p class="soft">What you set here goes to all of them.</p>
      </div>
      <h2>
        <PlainField
          :key="`label-${key}`" :value="differs('label') ? '' : page.tag.label!" label="Label" :placeholder="differs('label') ? 'Labels differ' : 'Type a label'"
          :keep="(label) => actions.define({ label })" data-test="label"
        />
      </h2>
      <div class="ask">
        <PlainField
          :key="`question-${key}`" :value="differs('question') ? '' : page.tag.question!" label="Question wording"
          :placeholder="differs('question') ? 'Wordings differ' : 'Question wording, as respondents read it'"
          :keep="(question) => actions.define({ question })" data-test="question"
        />
      </div>
      <PageFacts :key="`facts-${key}`" :page="page" :actions="actions" />
      <FillKey :fill="page.table.fill" />
      <MeasuredFigures v-if="!page.table.coded && !many" :page="page" :actions="actions" />
      <SpellingsNote :page="page" :actions="actions" />
      <SharedWith v-if="page.shared || differs('code_list')" :page="page" />
      <CodeLines :key="`lines-${key}`" :page="page" :actions="actions" @accept="accepting = [$event]" @accept-all="accepting = $event" />
      <SkipLines v-if="!many" :page="page" :actions="actions" />
      <PageFindings :page="page" />
      <p v-if="!many" class="where soft">
        {{ position + 1 }} of {{ study.variables.length }}
        <button aria-label="Previous variable" :disabled="position <= 0" @click="step(-1)"><kbd>↑</kbd></button>
        <button aria-label="Next variable" :disabled="position >= study.variables.length - 1" @click="step(1)"><kbd>↓</kbd></button>
      </p>
    </div>
    <ReasonDialog
      v-model="asking" :title="accepting.length > 1 ? `Keep ${accepting.length} entries as they are` : `Keep “${accepting[0]?.code}” as is`"
      hint="The entries stay strays, but are no finding any more. Say why, so that others understand."
      @given="actions.accept(accepting, $event)"
    />
  </article>
</template>

<style scoped>
.page {
  flex: 1;
  min-width: 0;
  background: var(--paper);
}

.sheet {
  max-width: 780px;
  padding: 20px 30px 40px;
}

@media (max-width: 1100px) {
  .sheet {
    padding: 14px 12px 24px;
  }
}

.together {
  margin-bottom: 10px;
  font-size: 13px;
}

.together .mono {
  display: inline-block;
  max-width: 560px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  vertical-align: bottom;
}

h2 {
  font-size: 25px;
  font-weight: 650;
  letter-spacing: -0.2px;
  line-height: 1.2;
}

.ask {
  font: 400 15.5px/1.45 var(--serif);
  color: var(--soil);
  margin: 5px 0 10px;
}

.where {
  margin-top: 20px;
  font-size: 12.5px;
}

.where button {
  min-width: 24px;
  min-height: 24px;
}

.where button:disabled {
  opacity: 0.4;
}
</style>
