/** What can be done with the chosen tags: one table for buttons, keys and the finder. */
import type { Component } from 'vue'

import BatteryPanel from './BatteryPanel.vue'
import ClearPanel from './ClearPanel.vue'
import ListsPanel from './ListsPanel.vue'
import MissingPanel from './MissingPanel.vue'
import NamesPanel from './NamesPanel.vue'
import NewPanel from './NewPanel.vue'
import ReadingsPanel from './ReadingsPanel.vue'
import StampPanel from './StampPanel.vue'
import WidthsPanel from './WidthsPanel.vue'

export interface PanelKind {
  name: string
  word: string
  title: string
  /** Pressed where nothing is typed. */
  key: string
  component: Component
}

export const PANELS: PanelKind[] = [
  { name: 'stamp', word: 'Stamp', title: 'Put parts of this tag onto others', key: 's', component: StampPanel },
  { name: 'names', word: 'Names', title: 'Rename by a pattern or from two columns', key: 'n', component: NamesPanel },
  { name: 'missing', word: 'Missing', title: 'Find and declare missing codes', key: 'm', component: MissingPanel },
  { name: 'lists', word: 'Lists', title: 'Share code lists between tags', key: 'l', component: ListsPanel },
  { name: 'battery', word: 'Battery', title: 'Group tags as a battery', key: 'b', component: BatteryPanel },
  { name: 'widths', word: 'Widths', title: 'Trim widths to what entries need', key: 'w', component: WidthsPanel },
  { name: 'readings', word: 'Types', title: 'Compare how entries read under other types', key: 't', component: ReadingsPanel },
  { name: 'clear', word: 'Clear', title: 'Clear labels, lists and other parts', key: 'c', component: ClearPanel },
  { name: 'new', word: 'New', title: 'Add variables', key: '+', component: NewPanel },
]
