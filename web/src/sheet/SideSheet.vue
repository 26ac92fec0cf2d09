<script setup lang="ts">
/** A questionnaire or codebook beside the work: its lines follow the tags at hand, and can be taken from. */
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'

import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import LinesCard from './LinesCard.vue'
import SheetForm from './SheetForm.vue'
import SheetLines from './SheetLines.vue'
import { type Span, useSheets } from './sheets'

/** The tags at hand, and lines to show that may belong to none. */
const props = defineProps<{ variables: string[]; lines?: Span | null }>()
const emit = defineEmits<{ go: [variable: string] }>()
const study = useStudy()
const sheets = useSheets()
const router = useRouter()

const adding = ref(false)
const chosen = ref<Span | null>(null)
const find = ref('')
const at = ref(0)
const card = ref<InstanceType<typeof LinesCard>>()
const spans = computed(() => (props.lines ? [props.lines] : sheets.spans(props.variables)))
const met = computed(() => sheets.page?.variables.filter((each) => each.variable).length ?? 0)
const hits = computed(() => {
  const looked = find.value.trim().toLowerCase()
  return looked ? (sheets.page?.lines ?? []).flatMap((line, index) => (line.toLowerCase().includes(looked) ? [index + 1] : [])) : []
})
const hit = computed(() => hits.value[at.value] ?? null)

watch(() => sheets.id, () => ((chosen.value = null), (find.value = '')))
watch(find, () => (at.value = 0))

function next(by: number): void {
  if (hits.value.length) at.value = (at.value + by + hits.value.length) % hits.value.length
}

async function compare(): Promise<void> {
  sheets.comparing = true
  await router.push({ name: 'codebook', params: { study: study.id } })
}
</script>

<template>
  <aside class="side" aria-label="Side sheet" data-test="side-sheet">
    <header>
      <select v-if="sheets.sheets.length > 1 && !adding" v-model="sheets.id" aria-label="Document">
        <option v-for="each in sheets.sheets" :key="each.id" :value="each.id">{{ each.name }}</option>
      </select>
      <h2 v-else :title="sheets.current?.name">{{ adding || !sheets.current ? 'Beside the study' : sheets.current.name }}</h2>
      <span v-if="chosen && !adding" class="soft">line {{ count(chosen[0]) }} of {{ count(sheets.page?.lines.length ?? 0) }}</span>
      <button v-if="sheets.sheets.length" class="icon" :aria-pressed="adding" title="Documents: keep another one, let one go" aria-label="Documents" data-test="sheets" @click="adding = !adding">+</button>
      <button class="icon" title="Close the side sheet (Alt+S)" aria-label="Close the side sheet" @click="sheets.shown = false">×</button>
    </header>
    <SheetForm v-if="adding || (sheets.loaded && !sheets.sheets.length)" :focused="adding || sheets.justAsked" @done="adding = false" />
    <template v-else-if="sheets.page">
      <div class="find">
        <input
          v-model="find" placeholder="Find in it" aria-label="Find in the document" spellcheck="false" data-test="sheet-find"
          @keydown.enter.exact.prevent="next(1)" @keydown.shift.enter.prevent="next(-1)" @keydown.esc="find = ''"
        />
        <span v-if="find.trim()" class="soft" role="status">{{ hits.length ? `${count(at + 1)} of ${count(hits.length)}` : 'nowhere' }}</span>
      </div>
      <SheetLines v-model="chosen" :page="sheets.page" :spans="spans" :find="find" :hit="hit" @go="emit('go', $event)" @apply="card?.apply()" />
      <footer>
        <LinesCard v-if="chosen" ref="card" :lines="chosen" :variables="variables" @done="chosen = null" />
        <template v-else>
          <p>{{ counted(sheets.page.variables.length, 'variable') }} found, {{ count(met) }} of the study. {{ sheets.page.unplaced.length ? 'Grey lines were not needed; choose any to read them by themselves.' : 'Choose lines to read them by themselves.' }}</p>
          <v-btn v-if="!sheets.comparing" variant="flat" color="primary" :disabled="!sheets.page.variables.length" data-test="read-it-all" @click="compare">Read it all</v-btn>
        </template>
      </footer>
    </template>
  </aside>
</template>

<style scoped>
.side {
  width: clamp(236px, 24vw, 308px);
  flex: none;
  display: flex;
  flex-direction: column;
  background: var(--sheet);
  border-left: 1px solid var(--line);
}

@media (max-width: 900px) {
  .side.side {
    position: absolute;
    inset: 0;
    z-index: 6;
    width: auto;
    max-height: none;
  }
}

header {
  display: flex;
  align-items: center;
  gap: 6px;
  height: 46px;
  flex: none;
  padding: 0 8px 0 16px;
  border-bottom: 1px solid var(--line);
  font-size: 12.5px;
}

header h2,
header select {
  flex: 1;
  min-width: 0;
  font-size: 13.5px;
  font-weight: 650;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

header span {
  white-space: nowrap;
}

.icon {
  width: 26px;
  height: 26px;
  font-size: 17px;
  line-height: 1;
  color: var(--soft);
}

.icon:hover {
  color: var(--ink);
}

.find {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 7px 12px 5px 14px;
  font-size: 12.5px;
}

.find input {
  flex: 1;
  min-width: 0;
  height: 27px;
  padding: 0 9px;
  font-size: 13px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
}

.find input::placeholder {
  color: var(--soft);
  opacity: 1;
}

footer {
  flex: none;
  margin: 8px 12px 12px;
  padding: 10px 12px;
  border: 1px solid var(--line2);
  border-radius: 8px;
  background: var(--white);
  font-size: 13px;
}

footer p + .v-btn {
  margin-top: 8px;
}
</style>
