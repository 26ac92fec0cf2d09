<script setup lang="ts">
/** Code lists that several tags share: name one, use it, give it up; lists that are alike; lists kept across studies. */
import { computed, ref, shallowRef } from 'vue'

import { type AnyStep, api, got, newId, type Schema } from '@/api/client'
import PlainField from '@/parts/PlainField.vue'
import { useAsked } from '@/study/asked'
import { attempt } from '@/study/notices'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { useChosen } from './chosen'
import PanelShell from './PanelShell.vue'

type Line = Schema['CodeLine']
const study = useStudy()
const chosen = useChosen()
const name = ref('')
const found = useAsked(
  'lists',
  () => [study.id, study.stamp({ tags: 'all', shelves: ['list'] })] as const,
  () => got(api.GET('/api/studies/{study_id}/lists', { params: { path: { study_id: study.id } } })),
)
const library = shallowRef<Schema['KeptList'][]>([])
void attempt(async () => (library.value = await got(api.GET('/api/library/lists'))))

const nameOf = (id: string): string => study.byId.get(id)?.name ?? ''
const names = (ids: string[]): string => ids.slice(0, 6).map(nameOf).join(', ') + (ids.length > 6 ? ` and ${ids.length - 6} more` : '')
const lines = (all: Line[]): string =>
  all.slice(0, 6).map((line) => `${line.code ?? `${line.low ?? ''} .. ${line.high ?? ''}`} ${line.label}`.trim()).join(' · ') + (all.length > 6 ? ' …' : '')
const chosenNames = computed(() => names(chosen.ids))
const here = computed(() => study.byId.get(chosen.first ?? ''))

const take = (step: AnyStep): Promise<unknown> => study.take(step)
const share = (title: string, variables: string[], own: Line[] | null): Promise<unknown> =>
  take({ do: 'share list', format: 1, list: newId().slice(0, 12), name: title, lines: own, variables } as AnyStep)

async function shareChosen(): Promise<void> {
  if (name.value.trim() && (await share(name.value, chosen.ids, null))) name.value = ''
}

async function keep(list: Schema['SharedList']): Promise<void> {
  await attempt(async () => (library.value = await got(api.PUT('/api/library/lists', { body: { name: list.name, lines: list.lines } }))))
}

async function forget(title: string): Promise<void> {
  await attempt(async () => (library.value = await got(api.DELETE('/api/library/lists/{name}', { params: { path: { name: title } } }))))
}
const proposed = (number: number): string => `list ${number + 1}`
const titles = ref<Record<number, string>>({})
</script>

<template>
  <PanelShell title="Code lists" lead="A shared list is named once and used by many tags; changing a line changes it for all of them. Missing codes stay with each tag.">
    <h3>Share</h3>
    <form v-if="here?.has_codes" class="row" @submit.prevent="shareChosen">
      <span>the list of <b class="mono">{{ here.name }}</b> on {{ chosenNames }} as</span>
      <input v-model="name" placeholder="agree5" aria-label="Name of the shared list" data-test="list-name" />
      <v-btn type="submit" :disabled="!name.trim()" data-test="share">Share</v-btn>
    </form>
    <p v-else class="soft">Choose a tag that has codes to share its list.</p>

    <h3>In this study</h3>
    <p v-if="found && !found.lists.length" class="soft">No list is shared yet.</p>
    <div v-for="list in found?.lists" :key="list.id" class="list" :data-test="`list-${list.name}`">
      <div class="row">
        <PlainField class="name" :value="list.name" :label="`Name of the list ${list.name}`" :keep="(title) => take({ do: 'name list', format: 1, list: list.id, name: title })" />
        <span class="soft">{{ lines(list.lines) }}</span>
      </div>
      <div class="soft">{{ list.variables.length ? `used by ${names(list.variables)}` : 'not used' }}</div>
      <div class="acts">
        <button v-if="chosen.ids.some((id) => !list.variables.includes(id))" class="act" data-test="use-list" @click="take({ do: 'use list', format: 1, list: list.id, variables: chosen.ids })">use on {{ chosenNames }}</button>
        <button v-if="chosen.ids.some((id) => list.variables.includes(id))" class="act" data-test="detach" @click="take({ do: 'detach list', format: 1, variables: chosen.ids.filter((id) => list.variables.includes(id)) })">give {{ names(chosen.ids.filter((id) => list.variables.includes(id))) }} lines of its own</button>
        <button class="act" data-test="keep-list" @click="keep(list)">keep in the library</button>
        <button class="act" data-test="drop-list" @click="take({ do: 'name list', format: 1, list: list.id, name: null })">drop</button>
      </div>
    </div>

    <template v-if="found?.alike.length">
      <h3>Lists that are alike</h3>
      <div v-for="(alike, number) in found.alike.slice(0, 40)" :key="number" class="list" data-test="alike">
        <div><b>{{ alike.how }}</b> on {{ counted(alike.variables.length, 'tag') }}: <span class="mono">{{ names(alike.variables) }}</span></div>
        <div class="soft">{{ lines(alike.lines) }}<template v-if="alike.differing?.length"> — not the same: {{ alike.differing.join(', ') }}</template></div>
        <form class="row" @submit.prevent="share(titles[number] || proposed(number), alike.variables, alike.lines)">
          <input v-model="titles[number]" :placeholder="proposed(number)" :aria-label="`Name for the list of ${names(alike.variables)}`" />
          <v-btn type="submit">Share on all {{ alike.variables.length }}</v-btn>
        </form>
      </div>
    </template>

    <h3>Library</h3>
    <p v-if="!library.length" class="soft">Lists that you keep here can be used in every study.</p>
    <div v-for="list in library" :key="list.name" class="list" :data-test="`kept-${list.name}`">
      <div><b>{{ list.name }}</b> <span class="soft">{{ lines(list.lines) }}</span></div>
      <div class="acts">
        <button class="act" @click="share(list.name, chosen.ids, list.lines)">use on {{ chosenNames }}</button>
        <button class="act" @click="forget(list.name)">take out of the library</button>
      </div>
    </div>
  </PanelShell>
</template>

<style scoped>
.row {
  display: flex;
  gap: 10px;
  align-items: center;
  font-size: 13px;
}

.row input {
  width: 180px;
  height: 30px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 8px;
}

.name {
  width: 180px;
  flex: none;
  font-weight: 650;
}

.list {
  border-bottom: 1px solid var(--line);
  padding: 7px 0;
  font-size: 13px;
  display: grid;
  gap: 3px;
}

.acts {
  display: flex;
  gap: 14px;
}
</style>
