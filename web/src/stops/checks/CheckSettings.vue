<script setup lang="ts">
/** How the checks are done in this study: each can be turned off, and its thresholds set. */
import { computed } from 'vue'

import { type AnyStep, api, got, type Schema } from '@/api/client'
import KeptInput from '@/parts/KeptInput.vue'
import { useAsked } from '@/study/asked'
import { say } from '@/study/notices'
import { useStudy } from '@/study/store'

type Check = Schema['CheckModel']
const open = defineModel<boolean>({ required: true })
const study = useStudy()
const checks = useAsked(
  'check settings',
  () => [study.id, open.value, study.stamp({ shelves: ['check'] })] as const,
  ([id, shown]) => (shown ? got(api.GET('/api/studies/{study_id}/check-settings', { params: { path: { study_id: id } } })) : null),
)
const families = computed(() => {
  const found = new Map<string, Check[]>()
  for (const each of checks.value ?? []) found.set(each.family, [...(found.get(each.family) ?? []), each])
  return [...found]
})

async function set(check: Check, off: boolean, values: Record<string, number> = {}): Promise<void> {
  const thresholds = Object.fromEntries(check.thresholds.filter((each) => each.value !== each.usual).map((each) => [each.name, each.value]))
  const outcome = await study.take({ do: 'set check', format: 1, says: { check: check.name, off, thresholds: { ...thresholds, ...values } } } as AnyStep)
  if (outcome) say(outcome.sentence)
}
function setThreshold(check: Check, name: string, text: string): boolean {
  const known = check.thresholds.find((each) => each.name === name)!
  const is = text !== '' && Number.isFinite(Number(text)) && Number(text) !== known.value
  if (is) void set(check, check.off, { [name]: Number(text) })
  return is
}
</script>

<template>
  <v-dialog v-model="open" max-width="860" scrollable>
    <div class="panel box" role="dialog" aria-label="How it is checked" data-test="settings">
      <h2>How this study is checked</h2>
      <p class="soft">What is set here is kept with the study, told in every report, and can be undone.</p>
      <div class="list scroll" tabindex="0" aria-label="Checks">
        <template v-for="[family, members] in families" :key="family">
          <h3>{{ family }}</h3>
          <div v-for="check in members" :key="check.name" class="check" :class="{ off: check.off }">
            <label><input type="checkbox" :checked="!check.off" :data-test="`on-${check.name}`" @change="set(check, !check.off)" /> {{ check.name }}</label>
            <div>
              <p class="soft">{{ check.notices }}</p>
              <p v-for="each in check.thresholds" :key="each.name" class="threshold">
                <label>{{ each.said }} <KeptInput :value="each.value" :keep="(text) => setThreshold(check, each.name, text)" :class="{ set: each.value !== each.usual }" inputmode="decimal" :data-test="`threshold-${check.name}-${each.name}`" /></label>
                <span class="soft">default {{ each.usual }}, from {{ each.least }} to {{ each.most }}</span>
              </p>
            </div>
          </div>
        </template>
      </div>
      <div class="foot"><v-btn data-test="close-settings" @click="open = false">Close</v-btn></div>
    </div>
  </v-dialog>
</template>

<style scoped>
.box {
  padding: 18px 20px;
  display: flex;
  flex-direction: column;
  max-height: 86vh;
}

h2 {
  font-size: 17px;
  font-weight: 650;
}

h3 {
  font-size: 13px;
  font-weight: 650;
  color: var(--soil);
  margin: 14px 0 4px;
}

.list {
  flex: 1;
  margin-top: 8px;
}

.check {
  display: grid;
  grid-template-columns: 240px 1fr;
  gap: 14px;
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
  font-size: 13px;
}

.check > label {
  display: flex;
  align-items: baseline;
  gap: 8px;
}

.off > label {
  color: var(--dim);
  text-decoration: line-through;
}

.threshold {
  display: flex;
  gap: 12px;
  align-items: baseline;
  margin-top: 4px;
}

.threshold input {
  width: 64px;
  height: 26px;
  margin-left: 6px;
  border: 1px solid var(--edge);
  border-radius: 6px;
  background: var(--white);
  padding: 0 8px;
}

.threshold .set {
  border-color: var(--leaf);
  font-weight: 650;
}

.foot {
  display: flex;
  justify-content: flex-end;
  margin-top: 12px;
}
</style>
