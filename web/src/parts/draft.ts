import { ref, type Ref, watch } from 'vue'

export interface Draft {
  text: Ref<string>
  /** What stands there was kept, as it is now or in other words: from now on it follows the value again. */
  agree: (kept?: string) => void
  /** Back to the value. */
  restore: () => void
}

/** Text of a field that shows a value, until somebody types: what is typed is not drawn over, whatever comes meanwhile. */
export function useDraft(value: () => string): Draft {
  const text = ref(value())
  let agreed = text.value
  watch(value, (now) => {
    if (text.value === agreed) text.value = now
    agreed = now
  })
  return {
    text,
    agree: (kept = text.value) => (agreed = text.value = kept),
    restore: () => (text.value = agreed = value()),
  }
}
