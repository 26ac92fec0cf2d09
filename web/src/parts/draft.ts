import { nextTick, onMounted, ref, type Ref, watch } from 'vue'

type Field = HTMLInputElement | HTMLTextAreaElement

export interface Draft {
  text: Ref<string>
  /** What stands there was kept, as it is now or in other words: from now on it follows the value again. */
  agree: (kept?: string) => void
  /** Back to the value. */
  restore: () => void
}

/** Where the text waits that is being typed, should the page be loaded anew: there is one at a time. */
const WAITING = 'row-tag-typed'
type Waiting = [key: string, text: string]
const stored = (): Waiting => JSON.parse(sessionStorage.getItem(WAITING) ?? '["", ""]') as Waiting

/** What waited when the page was loaded; it is for the field that it was typed in, once. */
let left: Waiting | undefined
function leftFor(key: string): string | null {
  left ??= stored()
  if (left[0] !== key) return null
  const [, text] = left
  left = ['', '']
  return text
}

/** Whether what is typed next would replace all that stands there. */
const chosenWhole = (field: Field): boolean => field === document.activeElement && field.selectionStart === 0 && field.selectionEnd === field.value.length

/**
 * Text of a field that shows a value, until somebody types: what is typed is not drawn over, whatever comes meanwhile,
 * and what it is about to replace stays chosen. Under a `name`, which with the address says which field it is, it is
 * there again after the page was loaded anew, and the field has the keys.
 */
export function useDraft(value: () => string, name = '', field: Readonly<Ref<Field | null | undefined>> = ref()): Draft {
  const text = ref(value())
  let agreed = text.value
  const key = name && `${location.pathname} ${name}`

  if (key) {
    const typed = leftFor(key)
    if (typed !== null) {
      text.value = typed
      onMounted(() => field.value?.focus())
    }
    watch(text, (now) => (now === agreed ? forget() : sessionStorage.setItem(WAITING, JSON.stringify([key, now]))))
  }
  function forget(): void {
    if (key && stored()[0] === key) sessionStorage.removeItem(WAITING)
  }
  const settle = (now: string): void => {
    text.value = agreed = now
    forget()
  }

  watch(value, (now) => {
    if (text.value === agreed) {
      const chosen = field.value && chosenWhole(field.value)
      text.value = now
      if (chosen) void nextTick(() => field.value?.select())
    }
    agreed = now
  })
  return { text, agree: (kept = text.value) => settle(kept), restore: () => settle(value()) }
}
