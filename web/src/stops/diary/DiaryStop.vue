<script setup lang="ts">
import { computed, ref } from 'vue'

import { api, got, type Schema } from '@/api/client'
import { useAsked } from '@/study/asked'
import { counted, moment } from '@/study/shown'
import { useStudy } from '@/study/store'

type Line = Schema['DiaryLineModel']

const study = useStudy()
const most = ref(100)
const diary = useAsked(
  () => [study.id, study.revision, most.value] as const,
  ([id, , wanted]) =>
    got(api.GET('/api/studies/{study_id}/diary', { params: { path: { study_id: id }, query: { most: Math.min(wanted, 500) } } })),
)
const lines = computed(() => diary.value?.lines ?? [])
const left = computed(() => lines.value.filter((line) => !line.current).length)
const names = (line: Line): string[] =>
  line.account.variables.slice(0, 6).map((id) => study.byId.get(id)?.name ?? '').filter(Boolean)
</script>

<template>
  <div v-if="diary" class="stop scroll">
    <header>
      <h2 class="title">Diary</h2>
      <span class="soft">{{ counted(diary.count, 'step') }}<template v-if="left">, {{ left }} of them not in the study as it is now</template></span>
    </header>
    <ol v-if="lines.length">
      <li v-for="line in lines" :key="line.step_id" :class="{ here: line.state === study.overview?.state, gone: !line.current }" data-test="diary-line">
        <time class="soft">{{ moment(line.at) }}<br />{{ line.by }}</time>
        <span class="knot" aria-hidden="true" />
        <div class="words">
          <p>{{ line.sentence }}</p>
          <p v-if="names(line).length" class="soft names">
            <router-link
              v-for="(name, index) in names(line)" :key="name" class="mono"
              :to="{ name: 'codebook', params: { study: study.id, variable: line.account.variables[index] } }"
            >{{ name }}</router-link>
            <span v-if="line.account.variables.length > 6">and {{ line.account.variables.length - 6 }} more</span>
          </p>
        </div>
        <span v-if="line.state === study.overview?.state" class="now">the study is here</span>
        <button v-else class="act" data-test="go-here" @click="study.moveHead('go', line.state)">{{ line.current ? 'go back to here' : 'go to here' }}</button>
      </li>
    </ol>
    <div v-else class="empty">
      <h2>No step yet</h2>
      <p>Everything that changes the study is told here in a sentence with its counts. Begin at the Intake.</p>
      <v-btn variant="flat" color="primary" :to="{ name: 'intake', params: { study: study.id } }">Go to the Intake</v-btn>
    </div>
    <button v-if="diary.count > lines.length && most < 500" class="act" @click="most += 200">Show earlier steps</button>
  </div>
</template>

<style scoped>
.stop {
  height: 100%;
  padding: 16px 28px 40px;
}

header {
  display: flex;
  gap: 18px;
  align-items: baseline;
  margin-bottom: 14px;
}

ol {
  list-style: none;
  padding: 0;
  max-width: 1000px;
}

li {
  display: grid;
  grid-template-columns: 112px 16px 1fr 130px;
  gap: 14px;
  align-items: start;
  padding: 9px 0;
  position: relative;
}

time {
  font-size: 12px;
  text-align: right;
}

.knot {
  width: 12px;
  height: 12px;
  margin: 4px 2px;
  border-radius: 50%;
  background: var(--leaf);
  z-index: 1;
}

li::before {
  content: '';
  position: absolute;
  left: 133px;
  top: 0;
  bottom: 0;
  border-left: 2px solid var(--line2);
}

.gone .knot {
  background: var(--paper);
  border: 2px dashed var(--edge);
}

.gone .words {
  color: var(--soft);
}

.here .knot {
  box-shadow: 0 0 0 4px var(--leaf-pale);
}

.here .words {
  font-weight: 600;
}

.names {
  font-size: 12px;
  font-weight: 400;
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
}

.names a {
  color: var(--soft);
  line-height: 24px;
}

.now {
  font-size: 12.5px;
  color: var(--leaf);
  font-weight: 650;
  text-align: right;
}

.act {
  justify-self: end;
}
</style>
