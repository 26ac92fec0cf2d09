<script setup lang="ts">
/** One entry: as code, as label, or both; coded missing, unreadable and unlisted each look their own way. */
import { computed } from 'vue'

import type { TagStrip } from '@/api/client'
import type { Show } from '@/study/store'
import type { Cell } from '@/session/cells'
import { KINDS, shownAs, wordsOf } from './shown'

const props = defineProps<{ cell: Cell | null; tag: TagStrip; show: Show; on: boolean; among: boolean; remarked: boolean }>()

const kind = computed(() => (props.cell ? KINDS[props.cell.state] : 'waiting'))
const right = computed(() => props.tag.type !== 'text' && !props.tag.has_codes && kind.value === 'valid')
/** What those hear who do not see the pattern: how an entry reads that is not plainly valid, and that it is remarked on. */
const spoken = computed(() => {
  const reading = props.cell && kind.value !== 'valid' ? wordsOf(props.cell) : ''
  const more = [reading, props.remarked ? 'with a comment' : ''].filter(Boolean)
  return more.length ? [parts.value.join(' ').trim(), ...more].filter(Boolean).join(', ') : undefined
})
const hint = computed(() => {
  if (!props.cell) return undefined
  const entry = props.cell.text.trim() ? `“${props.cell.text}”: ` : ''
  return `${entry}${wordsOf(props.cell)}${props.remarked ? '; it bears a comment' : ''}`
})
const parts = computed(() => (props.cell ? shownAs(props.cell, props.tag, props.show) : ['', '']))
</script>

<template>
  <div class="cell" role="gridcell" :class="[kind, { on, right, among, remarked }]" :title="hint" :aria-label="spoken" :aria-selected="on || among">
    <b v-if="parts[0]" class="mono">{{ parts[0] }}</b>{{ parts[0] ? ' ' : '' }}<span>{{ parts[1] }}</span>
  </div>
</template>

<style scoped>
.cell {
  position: absolute;
  top: 0;
  left: 0;
  height: 100%;
  padding: 6px 8px 0;
  font-size: 13px;
  background: var(--white);
  border-right: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  user-select: none;
}

.cell.frozen {
  position: sticky;
  flex: none;
  z-index: 1;
}

.cell b {
  margin-right: 4px;
}

.remarked::before {
  content: '';
  position: absolute;
  top: 0;
  right: 0;
  border: 5px solid transparent;
  border-top-color: var(--slate);
  border-right-color: var(--slate);
}

.right {
  text-align: right;
}

.waiting {
  background: var(--paper);
}

.missing {
  color: var(--straw-ink);
  background: repeating-linear-gradient(
    135deg,
    color-mix(in srgb, var(--straw-pale) 80%, transparent) 0 3px,
    color-mix(in srgb, var(--straw-pale) 30%, var(--white)) 3px 8px
  );
}

.unreadable {
  color: var(--beet);
  background: var(--beet-wash);
}

.unreadable span {
  border-bottom: 2px dotted var(--beet);
}

.unlisted {
  color: var(--beet);
  font-weight: 650;
  background: var(--beet-pale);
  box-shadow: inset 0 0 0 1.5px var(--beet);
}

.among::after {
  content: '';
  position: absolute;
  inset: 0;
  background: color-mix(in srgb, var(--leaf) 16%, transparent);
  pointer-events: none;
}

.on {
  box-shadow: inset 0 0 0 2px var(--leaf);
}
</style>
