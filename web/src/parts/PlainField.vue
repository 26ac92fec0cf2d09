<script setup lang="ts">
/** Text that is edited where it stands: kept on Enter or when left, restored on Escape. */
import { nextTick, ref, watch } from 'vue'

const props = defineProps<{ value: string; label: string; placeholder?: string; keep: (text: string) => unknown; keepAll?: (text: string) => unknown }>()
const text = ref(props.value)
const field = ref<HTMLTextAreaElement>()
let leaving = false

watch(
  () => props.value,
  (value) => {
    text.value = value
    void nextTick(fit)
  },
)

function fit(): void {
  if (!field.value) return
  field.value.style.height = 'auto'
  field.value.style.height = `${field.value.scrollHeight}px`
}

async function done(everywhere = false): Promise<void> {
  const typed = text.value.replace(/\s*\n\s*/g, ' ').trim()
  if (leaving || typed === props.value) return
  leaving = true
  await (everywhere && props.keepAll ? props.keepAll(typed) : props.keep(typed))
  leaving = false
}

function restore(): void {
  text.value = props.value
  void nextTick(() => field.value?.blur())
}

defineExpose({ focus: () => field.value?.focus() })
</script>

<template>
  <textarea
    ref="field"
    v-model="text"
    rows="1"
    class="plain"
    spellcheck="false"
    :aria-label="label"
    :placeholder="placeholder"
    :title="keepAll && 'Enter keeps it here; Ctrl+Enter changes it on every tag with this code and label'"
    @vue:mounted="fit"
    @input="fit"
    @blur="done()"
    @keydown.enter.exact.prevent="field?.blur()"
    @keydown.ctrl.enter.prevent="done(true)"
    @keydown.esc.prevent="restore"
  />
</template>

<style scoped>
.plain {
  display: block;
  width: 100%;
  min-height: 24px;
  resize: none;
  overflow: hidden;
  font: inherit;
  letter-spacing: inherit;
  color: inherit;
  background: transparent;
  border: 0;
  border-bottom: 1.5px solid transparent;
  padding: 1px 2px;
  margin-left: -2px;
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
