<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { type Component, computed, onBeforeUnmount, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { leadTo } from '@/frame/focus'
import { useKeys } from '@/frame/keys'
import { api, got } from '@/api/client'
import EmptyStudy from '@/parts/EmptyStudy.vue'
import { attempt, say } from '@/study/notices'
import { counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import ComparePanel from '@/sheet/ComparePanel.vue'
import SideSheet from '@/sheet/SideSheet.vue'
import { type Span, useSheets } from '@/sheet/sheets'
import { useChosen } from './chosen'
import CodebookPage from './CodebookPage.vue'
import PageActions from './PageActions.vue'
import { usePanel } from './panel'
import { PANELS } from './panels'
import BatteryPanel from './BatteryPanel.vue'
import ClearPanel from './ClearPanel.vue'
import ListsPanel from './ListsPanel.vue'
import MissingPanel from './MissingPanel.vue'
import NamesPanel from './NamesPanel.vue'
import NewPanel from './NewPanel.vue'
import TextPanel from './TextPanel.vue'
import ReadingsPanel from './ReadingsPanel.vue'
import StampPanel from './StampPanel.vue'
import WidthsPanel from './WidthsPanel.vue'
import TagList from './TagList.vue'

const study = useStudy()
const chosen = useChosen()
const panel = usePanel()
const sheets = useSheets()
/** While the document is compared: the tags and lines of it that are looked at there. */
const looked = ref<{ variables: string[]; lines: Span | null }>({ variables: [], lines: null })
const route = useRoute()
const router = useRouter()
const COMPONENTS: Record<string, Component> = {
  stamp: StampPanel,
  names: NamesPanel,
  missing: MissingPanel,
  lists: ListsPanel,
  battery: BatteryPanel,
  widths: WidthsPanel,
  readings: ReadingsPanel,
  clear: ClearPanel,
  text: TextPanel,
  new: NewPanel,
}
const shown = computed(() => (panel.open ? COMPONENTS[panel.open] : undefined))

// The address names the tag whose page is shown; what is chosen beside it is not kept in it.
watch(
  () => [route.name, route.params.variable, study.variables] as const,
  ([name, asked]) => {
    if (name !== 'codebook' || !study.variables.length) return
    const wanted = [asked, chosen.first].find((id) => study.byId.has(String(id))) ?? study.variables[0]!.id
    if (wanted !== chosen.first) chosen.only(String(wanted))
    else if (chosen.ids.length > 1) chosen.several(chosen.ids)
  },
  { immediate: true },
)
watch(
  () => chosen.first,
  (id) => {
    if (id && route.name === 'codebook' && route.params.variable !== id) {
      void router.replace({ name: 'codebook', params: { study: study.id, variable: id } })
    }
  },
  { immediate: true },
)

const meant = (event: KeyboardEvent): boolean =>
  !panel.open && !sheets.comparing && !(event.target as HTMLElement).closest?.('[role="dialog"], .panel-shell, [data-test="side-sheet"]')
useKeys(
  {
    'first code line': () => leadTo(sheets.comparing ? 'differences' : 'code-label'),
    'add line': () => document.querySelector<HTMLElement>('[data-test="add-line"]')?.focus(),
    ...Object.fromEntries(PANELS.map((each) => [`panel ${each.name}`, () => (panel.open = each.name)])),
  },
  meant,
)
/** Where nothing has the focus, keys mean the list: a label is kept with Enter, and ↓ goes on. */
useEventListener(window, 'keydown', (event) => {
  if (event.target !== document.body || event.ctrlKey || event.altKey || event.metaKey || !meant(event)) return
  if (!/^(Arrow(Up|Down)|Home|End|Enter)$/.test(event.key)) return
  const list = document.querySelector<HTMLElement>('[data-test="tags"]')
  list?.focus()
  list?.dispatchEvent(new KeyboardEvent('keydown', { key: event.key, shiftKey: event.shiftKey }))
  event.preventDefault()
})
/** Where nothing is typed or marked, copy and paste mean the chosen tags: as codebook text. */
const elsewhere = (event: Event): boolean =>
  (event.target as HTMLElement).closest?.('input, textarea, select, [role="dialog"], .panel-shell, [data-test="side-sheet"], [data-test="compare"]') != null
useEventListener(window, 'copy', (event) => {
  if (elsewhere(event) || getSelection()?.toString() || panel.open || sheets.comparing) return
  event.preventDefault()
  void copyTags()
})
useEventListener(window, 'paste', (event) => {
  const text = event.clipboardData?.getData('text/plain') ?? ''
  if (elsewhere(event) || panel.open || sheets.comparing || !text.trim()) return
  event.preventDefault()
  panel.pasted = text
  panel.open = 'text'
})

/** Copies the chosen tags; where the browser forbids that, their text is shown to be copied. */
async function copyTags(): Promise<void> {
  const path = { study_id: study.id }
  const found = await attempt(() => got(api.POST('/api/studies/{study_id}/notation', { params: { path }, body: { variables: chosen.ids } })))
  if (!found) return
  try {
    await navigator.clipboard.writeText(found.text)
    say(`Copied ${counted(chosen.ids.length, 'tag')} as codebook text.`)
  } catch {
    panel.open = 'text'
  }
}

function go(variable: string): void {
  sheets.comparing = false
  chosen.only(variable)
}

onBeforeUnmount(() => {
  panel.open = null
  panel.pasted = panel.fresh = ''
  sheets.comparing = false
  chosen.targets = null
})
</script>

<template>
  <EmptyStudy v-if="!study.variables.length && !sheets.comparing && !panel.open" />
  <div v-else class="stop split">
    <ComparePanel v-if="sheets.comparing && sheets.id" @look="(variables, lines) => (looked = { variables, lines })" @go="go" />
    <template v-else>
      <TagList />
      <component :is="shown" v-if="shown" :key="panel.open!" />
      <div v-else class="page-column">
        <PageActions />
        <CodebookPage />
      </div>
    </template>
    <SideSheet v-if="sheets.shown || (sheets.comparing && !sheets.narrow)" :variables="sheets.comparing ? looked.variables : chosen.ids" :lines="sheets.comparing ? looked.lines : null" @go="go" />
  </div>
</template>

<style scoped>
.stop {
  display: flex;
  height: 100%;
}

.page-column {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}
</style>
