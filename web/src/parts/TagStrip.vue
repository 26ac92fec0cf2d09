<script setup lang="ts">
/** A tag, the same wherever it stands: pointed left end with the level's sign, name, label, fill. */
import { computed } from 'vue'

import type { TagStrip } from '@/api/client'
import { count } from '@/study/shown'
import { useStudy } from '@/study/store'
import FillBar from './FillBar.vue'
import LevelSign from './LevelSign.vue'

const props = defineProps<{ tag: TagStrip; on?: boolean; beside?: boolean }>()

const study = useStudy()

const flag = computed(() => {
  if (props.tag.fill.stray) return `${count(props.tag.fill.stray)} stray`
  if (!props.tag.label) return 'no label'
  if (props.tag.wants_codes && props.tag.type !== 'text' && !props.tag.has_codes) return 'no code list'
  return ''
})
</script>

<template>
  <div class="tag" :class="{ on, beside: beside && !on, [study.show]: true }">
    <div class="body">
      <LevelSign class="sign" :level="tag.level" />
      <div class="words">
        <div class="name">{{ tag.name }}</div>
        <div class="label" :class="{ none: !tag.label }">{{ tag.label || (tag.proposed ? 'proposed, not looked at yet' : ' ') }}</div>
      </div>
      <div class="end">
        <FillBar :fill="tag.fill" class="bar" />
        <div class="flag">{{ flag }}</div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.tag {
  height: 44px;
  filter: drop-shadow(0 1px 0 rgb(60 50 20 / 18%));
}

.body {
  height: 100%;
  display: flex;
  gap: 8px;
  background: var(--white);
  clip-path: polygon(13px 0, 100% 0, 100% 100%, 13px 100%, 0 50%);
  padding: 4px 10px 4px 36px;
  position: relative;
}

.sign {
  position: absolute;
  left: 15px;
  top: 11px;
  font-size: 16px;
  line-height: 22px;
}

.words {
  flex: 1;
  min-width: 0;
}

.name {
  font: 600 13px/18px var(--mono);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.label {
  font-size: 12px;
  line-height: 17px;
  color: var(--soft);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.end {
  width: 60px;
  text-align: right;
  display: flex;
  flex-direction: column;
  align-items: flex-end;
}

.bar {
  width: 52px;
  margin-top: 5px;
}

.flag {
  font-size: 12px;
  line-height: 17px;
  margin-top: auto;
  color: var(--beet);
  white-space: nowrap;
}

.beside .body {
  background: var(--leaf-pale);
}

/* Names, labels or both, as chosen at the top; a tag without a label keeps its name. */
.codes .name,
.labels .label {
  line-height: 35px;
}

.codes .label {
  display: none;
}

.labels .name:has(+ .label:not(.none)) {
  display: none;
}

.labels .label.none {
  display: none;
}

.on .body {
  background: var(--leaf-deep);
  color: #fff;
}

.on .label,
.on .sign {
  color: #e4efe5;
}

.on .flag {
  color: #ffd9e7;
}

.on .bar {
  border-color: #fff;
  background: #24352c;
}

.on .bar :deep(.share-valid) {
  background: #bfe0c6;
}

.on .bar :deep(.share-blank) {
  background: #24352c;
}
</style>
