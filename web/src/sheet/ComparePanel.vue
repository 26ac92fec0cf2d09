<script setup lang="ts">
/** The whole document against the study, in four groups; what is taken of it becomes one step. */
import { computed, ref, watch } from 'vue'

import { useKeys } from '@/frame/keys'
import TagStrip from '@/parts/TagStrip.vue'
import VirtualList from '@/parts/VirtualList.vue'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { kindOf, type Row, type Side, useCompare } from './compare'
import DifferRow from './DifferRow.vue'
import OnlySheet from './OnlySheet.vue'
import { type Span, useSheets } from './sheets'

const emit = defineEmits<{ look: [variables: string[], lines: Span | null]; go: [variable: string] }>()
const study = useStudy()
const sheets = useSheets()
const compare = useCompare()
const { found, rows, kinds, tally, added, request, preview, refused, taking } = compare

type Group = 'agrees' | 'differs' | 'only in the sheet' | 'only in the data'
const group = ref<Group | null>(null)
const kind = ref('')
const at = ref(0)
const scroller = ref<{ show: (index: number) => void }>()

const groups = computed(() => [
  { name: 'agrees' as const, number: found.value?.agrees.length ?? 0, share: 'share-valid' },
  { name: 'differs' as const, number: found.value?.differs.length ?? 0, share: 'share-stray' },
  { name: 'only in the sheet' as const, number: found.value?.only_sheet.length ?? 0, share: 'share-missing' },
  { name: 'only in the data' as const, number: found.value?.only_data.length ?? 0, share: 'share-blank' },
])
const shown = computed<Group>(() => group.value ?? (found.value?.differs.length ? 'differs' : (groups.value.findLast((each) => each.number)?.name ?? 'agrees')))
const listed = computed(() => (kind.value && kinds.value.has(kind.value) ? rows.value.filter((row) => kindOf(row) === kind.value) : rows.value))
const adding = computed(() => listed.value.filter((row) => row.difference.adds && !compare.sideOf(row)))
const strips = computed(() => {
  const ids = shown.value === 'agrees' ? found.value?.agrees : found.value?.only_data
  return (ids ?? []).flatMap((id) => study.byId.get(id) ?? [])
})
const beginning = computed(() => !study.variables.length)
const nothingMet = computed(() => found.value && !beginning.value && !found.value.agrees.length && !found.value.differs.length)
const read = computed(() => sheets.page && `${counted(sheets.page.lines.length, 'line')}, ${counted(sheets.page.variables.length, 'variable')} found, ${counted(sheets.page.unplaced.length, 'line')} not used`)
const strays = computed(() => {
  // Of the variables that are concerned, as the step will tell it.
  const account = preview.value?.account
  return !account || account.after.stray === account.before.stray ? '' : `Strays ${count(account.before.stray)} → ${count(account.after.stray)}.`
})

const look = (row: Row | undefined): void => emit('look', row?.ids ?? [], null)
watch([listed, at], () => shown.value === 'differs' && look(listed.value[Math.min(at.value, listed.value.length - 1)]), { immediate: true })

function decide(index: number, side: Side | null): void {
  at.value = index
  compare.decide([listed.value[index]!], side)
}

function keys(event: KeyboardEvent): void {
  const by = { ArrowUp: -1, ArrowDown: 1, PageUp: -10, PageDown: 10, Home: -1e9, End: 1e9 }[event.key]
  const side = { ArrowLeft: 'sheet', ArrowRight: 'study', Backspace: null, Delete: null }[event.key] as Side | null | undefined
  if (by !== undefined) {
    at.value = Math.min(Math.max(at.value + by, 0), listed.value.length - 1)
    scroller.value?.show(at.value)
  } else if (side !== undefined && listed.value[at.value]) decide(at.value, side)
  else return
  event.preventDefault()
}

useKeys(
  { 'leave comparison': () => (sheets.comparing = false), 'take differences': () => void compare.take() },
  (event) => !(event.target as HTMLElement).closest('[data-test="sheet-lines"]'),
)
</script>

<template>
  <section class="compare" data-room tabindex="-1" aria-label="The sheet against the study" data-test="compare">
    <header>
      <h2 class="title" :title="sheets.current?.name">{{ sheets.current?.name }}</h2>
      <span>against the study</span>
      <span class="soft" data-test="compare-read">{{ read }}</span>
      <span class="grow" />
      <v-btn data-test="leave-compare" @click="sheets.comparing = false">Leave the comparison &nbsp;<kbd>Esc</kbd></v-btn>
    </header>
    <div v-if="!beginning" class="cards">
      <button v-for="each in groups" :key="each.name" class="card" :class="{ on: shown === each.name }" :aria-pressed="shown === each.name" :data-test="`group-${each.name.replaceAll(' ', '-')}`" @click="group = each.name">
        <span class="bar" :class="each.share" /><b>{{ count(each.number) }}</b>{{ each.name }}
      </button>
    </div>
    <p v-if="nothingMet" class="nothing" role="status" data-test="nothing-met">No name of this document is in the study: is it the codebook of another one? Nothing is applied. Names that mean a variable here can be told under “only in the sheet”.</p>
    <p v-else-if="beginning && found?.only_sheet.length" class="soft lead begin">The study is still empty. Look at what the sheet describes, type other names where you like them better, take out what is not wanted; then apply it.</p>
    <p v-else-if="beginning && found" class="nothing" role="status" data-test="nothing-found">No variable was found in this document. It is kept beside the study; choose lines of it to read them by themselves.</p>
    <template v-if="shown === 'differs'">
      <div class="chips">
        <button :class="{ on: !kind || !kinds.has(kind) }" :aria-pressed="!kind" @click="kind = ''">all {{ count(rows.reduce((sum, row) => sum + row.ids.length, 0)) }}</button>
        <button v-for="[name, number] in kinds" :key="name" :class="{ on: kind === name }" :aria-pressed="kind === name" :data-test="`kind-${name.replace(' ', '-')}`" @click="kind = name">{{ name }} {{ count(number) }}</button>
        <span class="grow" />
        <button class="act" data-test="take-all" @click="compare.decide(listed, 'sheet')">take all</button>
        <button class="act" data-test="keep-all-ours" @click="compare.decide(listed, 'study')">keep all</button>
        <button class="act" @click="compare.decide(listed, null)">decide none</button>
      </div>
      <div class="heads" role="presentation"><span>variable</span><span>part</span><span>in the sheet</span><span>in the study</span><span>in the data</span><span>effect</span></div>
      <VirtualList
        v-if="listed.length" ref="scroller" :items="listed" class="rows scroll" data-home role="table" aria-label="Differences: ← takes the sheet’s, → keeps the study’s" tabindex="0" data-test="differences"
        @keydown="keys"
      >
        <template #default="{ item, index }">
          <DifferRow :row="item" :side="compare.sideOf(item)" :change="compare.changeOf(item)" :on="index === at" @seen="compare.want(item)" @decide="decide(index, $event)" @click="at = index" />
        </template>
      </VirtualList>
      <p v-else class="soft rows">Nothing differs: all that the sheet says of these variables stands in the study.</p>
    </template>
    <div v-else-if="shown === 'only in the sheet'" class="rows column"><OnlySheet :compare="compare" @look="emit('look', [], $event)" /></div>
    <div v-else class="rows scroll">
      <p class="soft lead">{{ shown === 'agrees' ? 'All that the sheet says of these stands in the study.' : 'The sheet says nothing of these, or calls them by names that are not known here.' }}</p>
      <div class="strips">
        <button v-for="tag in strips" :key="tag.id" :title="`Go to ${tag.name}`" @mouseenter="emit('look', [tag.id], null)" @focus="emit('look', [tag.id], null)" @click="emit('go', tag.id)"><TagStrip :tag="tag" /></button>
      </div>
    </div>
    <footer class="foot-bar">
      <p v-if="refused" role="alert" class="beet" data-test="compare-refused">{{ refused }}</p>
      <p v-else role="status" data-test="compare-status"><template v-if="!beginning"><b>{{ count(tally.sheet) }} taken</b>, <b>{{ count(tally.study) }} kept</b>, {{ count(tally.undecided) }} undecided{{ added.length ? ', ' : '' }}</template><b v-if="added.length || beginning">{{ counted(added.length, 'variable') }} {{ beginning ? 'to be added' : 'added' }}</b>. {{ request ? strays : '' }}</p>
      <span class="grow" />
      <v-btn v-if="shown === 'differs' && adding.length" title="Where the study has nothing yet" data-test="take-adding" @click="compare.decide(adding, 'sheet')">Take all that is new</v-btn>
      <v-btn variant="flat" color="primary" :disabled="!request || refused !== ''" :loading="taking" data-test="apply-compare" @click="compare.take()">Apply {{ tally.sheet + added.length ? count(tally.sheet + added.length) : '' }} as one step &nbsp;<kbd>Ctrl ↵</kbd></v-btn>
    </footer>
  </section>
</template>

<style scoped>
.compare {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  background: var(--paper);
}

header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
  padding: 14px 24px 10px;
  font-size: 13px;
}

header h2 {
  min-width: 60px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

header span {
  white-space: nowrap;
}

.cards {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 10px;
  padding: 0 24px 12px;
}

.card {
  border: 1px solid var(--line2);
  border-radius: 8px;
  padding: 8px 14px;
  background: var(--white);
  text-align: left;
  font-size: 13px;
  color: var(--soft);
}

.card b {
  display: block;
  font-size: 21px;
  line-height: 28px;
  color: var(--ink);
}

.card.on {
  border-color: var(--ink);
  box-shadow: 0 3px 0 var(--ink);
}

.bar {
  display: block;
  height: 6px;
  margin-bottom: 6px;
  border: 1px solid var(--line2);
}

.nothing {
  margin: 0 24px 12px;
  padding: 10px 14px;
  border: 1px solid var(--beet);
  border-radius: 8px;
  font-size: 13px;
}

.chips {
  padding: 0 24px 6px;
}

.chips .act {
  margin-left: 10px;
}

.heads {
  display: grid;
  grid-template-columns: 124px 84px minmax(0, 1.15fr) minmax(0, 1fr) minmax(0, 0.85fr) 118px;
  gap: 8px;
  padding: 6px 24px;
  overflow-y: hidden;
  scrollbar-gutter: stable;
  border-bottom: 1px solid var(--line2);
  font-size: 12px;
  color: var(--soft);
}

.rows {
  scrollbar-gutter: stable;
  flex: 1;
  min-height: 0;
  padding: 0 24px 16px;
  outline-offset: -2px;
}

.column {
  display: flex;
  flex-direction: column;
}

.begin {
  margin: 0 24px;
}

.lead {
  padding: 4px 0 10px;
  font-size: 13px;
}

.strips {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(250px, 1fr));
  gap: 4px 12px;
}

.strips button {
  text-align: left;
}
</style>
