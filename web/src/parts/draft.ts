import { onMounted, ref, type Ref, watch } from 'vue'

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

/**
 * Text of a field that shows a value, until somebody types: what is typed is not drawn over, whatever comes meanwhile.
 * Under a `name`, which with the address says which field it is, it is there again after the page was loaded anew, and
 * `again` leads back to it.
 */
export function useDraft(value: () => string, name = '', again: () => void = () => undefined): Draft {
  const text = ref(value())
  let agreed = text.value
  const key = name && `${location.pathname} ${name}`

  if (key) {
    const typed = leftFor(key)
    if (typed !== null) {
      text.value = typed
      onMounted(again)
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
    if (text.value === agreed) text.value = now
    agreed = now
  })
  return { text, agree: (kept = text.value) => settle(kept), restore: () => settle(value()) }
}
