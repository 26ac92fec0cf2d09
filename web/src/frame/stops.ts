/** The eight stops, in the order of the work. */
import type { Component } from 'vue'

export interface Stop {
  name: string
  title: string
  path: string
  glyph: string
  component: () => Promise<Component>
}

export const STOPS: Stop[] = [
  {
    name: 'intake',
    title: 'Intake',
    path: 'intake',
    glyph: 'M11 3v10M7 9l4 4 4-4M3 15v4h16v-4',
    component: () => import('@/stops/intake/IntakeStop.vue'),
  },
  {
    name: 'codebook',
    title: 'Codebook',
    path: 'codebook/:variable?',
    glyph: 'M4 4h9l5 5v10H4zM7 10h5M7 13.5h8',
    component: () => import('@/stops/codebook/CodebookStop.vue'),
  },
  {
    name: 'records',
    title: 'Records',
    path: 'records',
    glyph: 'M3 5h16M3 9.5h16M3 14h16M3 18.5h16M8 5v13.5',
    component: () => import('@/stops/records/RecordsStop.vue'),
  },
  {
    name: 'checks',
    title: 'Checks',
    path: 'checks',
    glyph: 'M4 12l4 4L18 5M4 19h14',
    component: () => import('@/stops/checks/ChecksStop.vue'),
  },
  {
    name: 'derive',
    title: 'Derive',
    path: 'derive/:variable?',
    glyph: 'M4 6h5c4 0 3 10 9 10M4 16h5c4 0 3-10 9-10M15 3.5l3 2.5-3 2.5M15 13.5l3 2.5-3 2.5',
    component: () => import('@/stops/derive/DeriveStop.vue'),
  },
  {
    name: 'tables',
    title: 'Tables',
    path: 'tables',
    glyph: 'M4 19V9M9 19V4M14 19v-7M19 19v-4',
    component: () => import('@/stops/tables/TablesStop.vue'),
  },
  {
    name: 'diary',
    title: 'Diary',
    path: 'diary',
    glyph: 'M6 3h11v16H6zM6 7H4M6 11H4M6 15H4M9.5 8h5M9.5 11.5h5',
    component: () => import('@/stops/diary/DiaryStop.vue'),
  },
  {
    name: 'handover',
    title: 'Handover',
    path: 'handover',
    glyph: 'M3 12h13M11 7l5 5-5 5M19 4v16',
    component: () => import('@/stops/handover/HandoverStop.vue'),
  },
]
