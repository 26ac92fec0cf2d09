<script setup lang="ts">
/** One variable, like a page of a printed codebook whose lines carry their evidence. */
import { computed, ref } from 'vue'

import type { TableRow } from '@/api/client'
import PlainField from '@/parts/PlainField.vue'
import ReasonDialog from '@/parts/ReasonDialog.vue'
import { useStudy } from '@/study/store'
import CodeLines from './CodeLines.vue'
import FillKey from './FillKey.vue'
import MeasuredFigures from './MeasuredFigures.vue'
import { usePage } from './page'
import PageFacts from './PageFacts.vue'
import PageFindings from './PageFindings.vue'

const props = defineProps<{ variable: string | null }>()
const emit = defineEmits<{ choose: [id: string] }>()
const study = useStudy()
const actions = usePage(() => props.variable)
const page = actions.page

const accepting = ref<TableRow | null>(null)
const asking = computed({ get: () => accepting.value !== null, set: (open) => open || (accepting.value = null) })
const position = computed(() => study.variables.findIndex((each) => each.id === props.variable))

function step(by: number): void {
  const next = study.variables[position.value + by]
  if (next) emit('choose', next.id)
}
</script>

<template>
  <article v-if="page" class="page scroll" tabindex="-1" data-test="page">
    <div class="sheet">
      <h2>
        <PlainField
          :key="`label-${page.id}`" :value="page.tag.label" label="Label" placeholder="Type a label"
          :keep="(label) => actions.define({ label })" data-test="label"
        />
      </h2>
      <div class="ask">
        <PlainField
          :key="`question-${page.id}`" :value="page.tag.question" label="Question wording" placeholder="Question wording, as respondents read it"
          :keep="(question) => actions.define({ question })" data-test="question"
        />
      </div>
      <PageFacts :page="page" :actions="actions" />
      <FillKey :fill="page.table.fill" />
      <MeasuredFigures v-if="!page.table.coded" :table="page.table" />
      <CodeLines :page="page" :actions="actions" @accept="accepting = $event" />
      <PageFindings :page="page" />
      <p class="where soft">
        {{ position + 1 }} of {{ study.variables.length }}
        <button aria-label="Previous variable" :disabled="position <= 0" @click="step(-1)"><kbd>↑</kbd></button>
        <button aria-label="Next variable" :disabled="position >= study.variables.length - 1" @click="step(1)"><kbd>↓</kbd></button>
      </p>
    </div>
    <ReasonDialog
      v-model="asking" :title="`Keep “${accepting?.code}” as is`"
      hint="The entries stay strays, but are no finding any more. Say why, so that others understand."
      @given="accepting && actions.accept(accepting, $event)"
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
