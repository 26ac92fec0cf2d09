<script setup lang="ts">
/** Text that is edited where it stands: kept on Enter or when left, restored on Escape. */
import { nextTick, ref, watch } from 'vue'

import { leadOn, leave } from '@/frame/focus'
import { useDraft } from './draft'

defineOptions({ inheritAttrs: false })
const props = defineProps<{ value: string; label: string; placeholder?: string; keep: (text: string) => unknown; keepAll?: (text: string) => unknown }>()
const field = ref<HTMLTextAreaElement>()
const draft = useDraft(() => props.value, props.label, field)
const { text } = draft
/** What was kept last: the same text is not kept twice, another one at once. */
let kept = props.value

watch(
  () => props.value,
  (value) => (kept = value),
)

function done(everywhere = false): void {
  const typed = text.value.replace(/\s*\n\s*/g, ' ').trim()
  if (typed === kept) return
  kept = typed
  draft.agree(typed)
  const sent = Promise.resolve(everywhere && props.keepAll ? props.keepAll(typed) : props.keep(typed))
  void sent.then((outcome) => outcome === undefined && kept === typed && (kept = props.value)) // refused: it can be tried again
}

function restore(): void {
  draft.restore()
  void nextTick(leave)
}

defineExpose({ focus: () => field.value?.focus() })
</script>

<template>
  <!-- Unseen, the same text beneath gives the height: nothing has to be measured while a page is drawn. -->
  <div class="grown" :class="$attrs.class" :data-text="text || placeholder">
    <textarea
      ref="field"
      v-model="text"
      v-bind="{ ...$attrs, class: undefined }"
      rows="1"
      class="plain"
      spellcheck="false"
      :aria-label="label"
      :placeholder="placeholder"
      :title="keepAll && 'Enter keeps it here; Ctrl+Enter changes it on every tag with this code and label'"
      @blur="done()"
      @keydown.enter.exact.prevent="leadOn(field!)"
      @keydown.ctrl.enter.prevent="done(true)"
      @keydown.esc.prevent="restore"
    />
  </div>
</template>

<style scoped>
.grown {
  display: grid;
  min-width: 0;
  margin-left: -2px;
}

.grown::after {
  content: attr(data-text) ' ';
  visibility: hidden;
  white-space: pre-wrap;
}

.grown::after,
.plain {
  grid-area: 1 / 1;
  min-width: 0;
  min-height: 24px;
  padding: 1px 2px;
  border: 0;
  border-bottom: 1.5px solid transparent;
  overflow-wrap: break-word;
}

.plain {
  display: block;
  width: 100%;
  resize: none;
  overflow: hidden;
  font: inherit;
  letter-spacing: inherit;
  color: inherit;
  background: transparent;
  outline: none;
}

.plain:hover {
  border-bottom-color: var(--line2);
}

.plain:focus {
  border-bottom-color: var(--leaf);
  background: var(--white);
}

.plain::placeholder {
  color: var(--dim);
  opacity: 1;
}
</style>
