<script setup lang="ts">
/** What only the document has: a near name may mean a variable, any may be said to, others can be added. */
import { computed } from 'vue'

import VirtualList from '@/parts/VirtualList.vue'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { usePanel } from '@/stops/codebook/panel'
import type { Compare } from './compare'
import { useSheets } from './sheets'
import { codesOf, saidOf, sureness, titleOf, UNSURE } from './words'

const { compare } = defineProps<{ compare: Compare }>()
const emit = defineEmits<{ look: [lines: [number, number]] }>()
const study = useStudy()
const sheets = useSheets()
const panel = usePanel()
const found = computed(() => compare.found.value)
const only = computed(() => found.value?.only_sheet ?? [])
const free = computed(() => (found.value?.only_data ?? []).flatMap((id) => study.byId.get(id) ?? []))
const all = computed(() => only.value.length > 0 && only.value.every((each) => compare.added.value.includes(each.name)))

function near(name: string): { id: string; name: string } | null {
  const id = found.value?.near[name]
  const tag = id && !compare.decided.value.apart.includes(name) ? study.byId.get(id) : undefined
  return tag ? { id: tag.id, name: tag.name } : null
}

/** Opens all of it as text to be changed; the comparison is left for that. */
async function asText(): Promise<void> {
  const found = await compare.newText()
  if (!found) return
  sheets.comparing = false
  panel.fresh = found.text
  panel.open = 'text'
}

/** Takes the name of a variable that somebody gives; what is none is not kept. */
function mean(name: string, event: Event): void {
  const field = event.target as HTMLInputElement
  const meant = free.value.find((tag) => tag.name.toLowerCase() === field.value.trim().toLowerCase())
  if (meant) compare.mean(name, meant.id)
  else field.value = ''
}
</script>

<template>
  <div v-if="only.length" class="only">
    <div class="all">
      <label><input type="checkbox" :checked="all" data-test="add-all" @change="compare.add(only.map((each) => each.name), !all)" /> Add all {{ only.length }} as new variables{{ study.overview?.records ? ', blank in every record' : '' }}</label>
      <span class="grow" />
      <button class="act" title="Names, labels, types, codes: all of it as codebook text, changed before it is added" data-test="as-text" @click="asText">change more of it as text</button>
    </div>
    <datalist id="free-variables"><option v-for="tag in free" :key="tag.id" :value="tag.name">{{ tag.label }}</option></datalist>
    <VirtualList :items="only" class="rows scroll">
      <template #default="{ item: each }">
        <div class="row" :data-test="`only-sheet-${each.name}`" @mouseenter="emit('look', [each.first, each.last])" @focusin="emit('look', [each.first, each.last])">
          <input
            class="mono name" :class="{ other: compare.decided.value.called[each.name] }" :value="compare.decided.value.called[each.name] ?? each.name" spellcheck="false"
            :title="compare.decided.value.called[each.name] ? `${each.name} in the sheet` : 'Its name; type another one to add it under that'" :aria-label="`Name under which ${each.name} is added`" data-test="call"
            @change="compare.call(each.name, ($event.target as HTMLInputElement).value.trim())" @keydown.enter="($event.target as HTMLInputElement).blur()"
          />
          <div>
            <p v-if="titleOf(each.parts)" class="one"><span v-if="each.battery" class="soft">{{ each.battery }} · </span>{{ titleOf(each.parts) }}</p>
            <p class="soft one" :title="codesOf(each.parts)">{{ [codesOf(each.parts), ...saidOf(each.parts).filter((said) => !/ codes?$/.test(said)), ...each.skips.map((skip) => `skip ${skip}`), `line ${each.first}`, each.certainty < UNSURE ? sureness(each) : ''].filter(Boolean).join(' · ') }}</p>
          </div>
          <div class="answer">
            <template v-if="near(each.name)">
              Is it <b class="mono">{{ near(each.name)!.name }}</b>?
              <button class="act" data-test="near-yes" @click="compare.mean(each.name, near(each.name)!.id)">yes</button>
              <button class="act" data-test="near-no" @click="compare.mean(each.name, null)">no</button>
            </template>
            <template v-else>
              <label v-if="free.length">means
                <input list="free-variables" class="mono meant" placeholder="none of the study" spellcheck="false" :aria-label="`Variable that ${each.name} means`" data-test="means" @change="mean(each.name, $event)" />
              </label>
              <label><input type="checkbox" :checked="compare.added.value.includes(each.name)" data-test="add" @change="compare.add([each.name], !compare.added.value.includes(each.name))" /> add it</label>
            </template>
          </div>
        </div>
      </template>
    </VirtualList>
  </div>
  <p v-else class="soft">Every variable of the sheet is in the study.</p>
  <p v-if="Object.keys(compare.decided.value.matches).length" class="soft said">
    {{ counted(Object.keys(compare.decided.value.matches).length, 'name') }} said to mean a variable:
    <template v-for="(id, name) in compare.decided.value.matches" :key="name">
      <b class="mono">{{ name }}</b> is <b class="mono">{{ study.byId.get(id)?.name ?? 'gone' }}</b> <button class="act" @click="compare.mean(name, null)">take that back</button>&ensp;
    </template>
  </p>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr) auto;
  gap: 12px;
  align-items: center;
  min-height: 46px;
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
  font-size: 13px;
}

.name {
  width: 100%;
  height: 28px;
  border: 1px solid transparent;
  border-bottom: 1px dotted var(--edge);
  border-radius: 6px;
  background: transparent;
  padding: 0 6px;
  margin-left: -6px;
  font-weight: 600;
  text-overflow: ellipsis;
}

.row:hover .name,
.name:focus {
  border-color: var(--edge);
  background: var(--white);
}

.one {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.other {
  color: var(--leaf);
}

.answer,
.answer label,
.all,
.all label {
  display: flex;
  align-items: center;
  gap: 6px;
}

.answer {
  justify-content: flex-end;
  gap: 12px;
}

.all {
  min-height: 34px;
  font-size: 13px;
}

.only {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
}

.rows {
  flex: 1;
  min-height: 0;
}

.meant {
  width: 158px;
  height: 27px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 6px;
  font-size: 12.5px;
}

.meant::placeholder {
  font-family: var(--sans);
  color: var(--soft);
  opacity: 1;
}

input[type='checkbox'] {
  width: 15px;
  height: 15px;
  accent-color: var(--leaf);
}

.said {
  margin-top: 12px;
  font-size: 13px;
}
</style>
