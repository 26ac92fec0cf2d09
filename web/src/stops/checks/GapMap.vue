<script setup lang="ts">
/** Which records miss what: rows of records with gaps alike, and the patterns as a table; both lead to the records. */
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'

import { api, got, type Schema } from '@/api/client'
import { useRecordView } from '@/stops/records/view'
import { useAsked } from '@/study/asked'
import { count, counted } from '@/study/shown'
import { useStudy } from '@/study/store'
import { theme } from '@/study/theme'

const HEIGHT = 330
const MOST_CONDITIONS = 50

const study = useStudy()
const view = useRecordView()
const router = useRouter()
const gaps = useAsked(
  'gaps',
  () => [study.id, study.stamp({ tags: 'all', entries: 'all', shelves: ['list'], order: true, records: true })] as const,
  ([id]) => got(api.GET('/api/studies/{study_id}/gaps', { params: { path: { study_id: id } } })),
)
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const pointed = ref('')

const bytes = (text: string): Uint8Array => Uint8Array.from(atob(text), (each) => each.charCodeAt(0))
const picture = computed(() => (gaps.value ? { blank: bytes(gaps.value.blank), coded: bytes(gaps.value.coded) } : null))
const shares = computed(() => {
  if (!gaps.value || !picture.value) return []
  const { variables, sizes } = gaps.value
  const all = sizes.reduce((sum, size) => sum + size, 0)
  return variables.map((id, column) => {
    const missed = sizes.reduce((sum, size, row) => sum + (size * (picture.value!.blank[row * variables.length + column]! + picture.value!.coded[row * variables.length + column]!)) / 255, 0)
    return { id, name: study.byId.get(id)?.name ?? '', share: all ? missed / all : 0 }
  })
})

function colour(name: string): [number, number, number] {
  const found = getComputedStyle(canvas.value!).getPropertyValue(name)
  const [red = 0, green = 0, blue = 0] = (found.match(/[\d.]+/g) ?? []).map(Number)
  return [red, green, blue]
}

/** One pixel for each row and variable; the browser stretches it. Blanks are dark, coded missing ones straw. */
function draw(): void {
  if (!canvas.value || !gaps.value || !picture.value) return
  const wide = gaps.value.variables.length
  const high = gaps.value.sizes.length
  canvas.value.width = wide
  canvas.value.height = high
  const context = canvas.value.getContext('2d')!
  const image = context.createImageData(wide, high)
  const [ground, dark, straw] = [colour('--bed'), colour('--ink'), colour('--straw')]
  for (let at = 0; at < wide * high; at++) {
    const [blank, coded] = [picture.value.blank[at]! / 255, picture.value.coded[at]! / 255]
    const [seen, said] = [blank ? 0.25 + 0.75 * blank : 0, coded ? 0.25 + 0.75 * coded : 0]
    const rest = Math.max(0, 1 - seen - said)
    const sum = seen + said + rest
    for (let part = 0; part < 3; part++) image.data[4 * at + part] = (dark[part]! * seen + straw[part]! * said + ground[part]! * rest) / sum
    image.data[4 * at + 3] = 255
  }
  context.putImageData(image, 0, 0)
}
watch([canvas, picture, theme], draw, { flush: 'post' })

function placeOf(event: MouseEvent): { variable: string; row: number } | null {
  if (!canvas.value || !gaps.value) return null
  const box = canvas.value.getBoundingClientRect()
  const column = Math.floor(((event.clientX - box.left) / box.width) * gaps.value.variables.length)
  const row = Math.floor(((event.clientY - box.top) / box.height) * gaps.value.sizes.length)
  const variable = gaps.value.variables[column]
  return variable && row >= 0 && row < gaps.value.sizes.length ? { variable, row } : null
}
function point(event: MouseEvent): void {
  const place = placeOf(event)
  if (!place || !gaps.value || !picture.value) return
  const at = place.row * gaps.value.variables.length + gaps.value.variables.indexOf(place.variable)
  const size = gaps.value.sizes[place.row]!
  const [blank, coded] = [picture.value.blank, picture.value.coded].map((each) => Math.round((each[at]! / 255) * size))
  pointed.value = `${study.byId.get(place.variable)?.name}: of ${counted(size, 'record')}, ${count(blank!)} blank and ${count(coded!)} coded missing`
}

async function toRecords(variables: string[], none: boolean): Promise<void> {
  const condition = (variable: string, other: boolean): Schema['Condition'] => ({ variable, codes: [], readings: ['valid'], text: '', low: null, high: null, other })
  const missed = variables.slice(0, MOST_CONDITIONS).map((each) => condition(each, true))
  const rest = none ? (gaps.value?.variables ?? []).filter((each) => !variables.includes(each)) : []
  const answered = rest.length + missed.length <= MOST_CONDITIONS ? rest.map((each) => condition(each, false)) : []
  await view.arrange({ conditions: [...missed, ...answered] } as never)
  await router.push({ name: 'records', params: { study: study.id }, query: variables[0] ? { variable: variables[0] } : {} })
}
const toPlace = (event: MouseEvent): void => {
  const place = placeOf(event)
  if (place) void toRecords([place.variable], false)
}
const named = (ids: string[]): string => ids.map((id) => study.byId.get(id)?.name ?? '').join(', ')
</script>

<template>
  <div v-if="gaps" class="gaps" data-test="gaps">
    <section class="panel picture">
      <h3>Who misses what <span class="soft">records with gaps alike stand together; <i class="blank" /> blank or stray, <i class="coded" /> coded missing</span></h3>
      <div class="across scroll" data-wide tabindex="0" aria-label="Gap map">
        <div class="sheet" :style="{ minWidth: `${Math.max(gaps.variables.length * 6, 200)}px` }">
          <canvas
            ref="canvas" :style="{ height: `${HEIGHT}px` }" role="img" data-test="gap-map" :aria-label="`Gaps of ${counted(gaps.variables.length, 'variable')}; the table below tells the same`"
            @mousemove="point" @mouseleave="pointed = ''" @click="toPlace"
          />
          <div class="names">
            <button v-for="each in shares" :key="each.id" class="mono" :title="`${each.name}: no valid answer in ${(100 * each.share).toFixed(1)} %`" :aria-label="`${each.name}, no valid answer in ${(100 * each.share).toFixed(1)} %`" @click="toRecords([each.id], false)"><i :style="{ height: `${Math.round(24 * each.share)}px` }" /><span v-if="gaps.variables.length <= 70">{{ each.name }}</span></button>
          </div>
        </div>
      </div>
      <p class="soft told" role="status">{{ pointed || 'Point at a place to see how many; a click shows the records that miss it.' }}</p>
    </section>
    <section class="panel patterns">
      <h3>{{ counted(gaps.different, 'pattern') }} <span class="soft">of missing answers{{ gaps.different > gaps.patterns.length ? `, the commonest ${count(gaps.patterns.length)}` : '' }}</span></h3>
      <table>
        <thead><tr><th class="number" scope="col">records</th><th class="number" scope="col">miss</th><th scope="col">variables</th><th /></tr></thead>
        <tbody>
          <tr v-for="(pattern, at) in gaps.patterns" :key="at" data-test="gap-pattern">
            <td class="number">{{ count(pattern.count) }}</td>
            <td class="number">{{ count(pattern.variables.length) }}</td>
            <td><span class="mono cut" :title="named(pattern.variables)">{{ named(pattern.variables) || 'nothing' }}</span></td>
            <td><button class="act" @click="toRecords(pattern.variables, true)">see the records</button></td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
.panel {
  padding: 12px 16px;
  margin-bottom: 14px;
}

h3 {
  font-size: 13.5px;
  font-weight: 650;
  margin-bottom: 10px;
}

h3 .soft {
  font-weight: 400;
  margin-left: 8px;
}

h3 i {
  display: inline-block;
  width: 11px;
  height: 11px;
  margin-left: 6px;
}

.blank {
  background: var(--ink);
}

.coded {
  background: var(--straw);
}

canvas {
  display: block;
  width: 100%;
  image-rendering: pixelated;
  cursor: pointer;
  border: 1px solid var(--line);
  forced-color-adjust: none;
}

.names {
  display: flex;
  height: 112px;
}

.names button {
  flex: 1;
  min-width: 0;
  position: relative;
}

.names i {
  position: absolute;
  top: 0;
  left: 15%;
  right: 15%;
  background: var(--edge);
}

.names span {
  position: absolute;
  top: 28px;
  left: calc(50% - 8px);
  writing-mode: vertical-rl;
  font-size: 11px;
  color: var(--soft);
  max-height: 84px;
  overflow: hidden;
}

.told {
  font-size: 13px;
  min-height: 19px;
}

table {
  width: 100%;
  border-collapse: collapse;
  font-size: 13px;
  table-layout: fixed;
}

th,
td {
  text-align: left;
  padding: 5px 14px 5px 0;
  border-bottom: 1px solid var(--line);
  font-weight: 400;
}

th {
  color: var(--soft);
}

.number {
  text-align: right;
  width: 76px;
}

td:last-child,
th:last-child {
  width: 120px;
}

.cut {
  display: block;
}
</style>
