/** A text that is typed, as it stands once nobody has typed for a moment. */
import { type Ref, ref, watch } from 'vue'

const PAUSE = 180

export function useTyped<T>(typed: Ref<T>): Readonly<Ref<T>> {
  const settled = ref(typed.value) as Ref<T>
  let timer: ReturnType<typeof setTimeout>
  watch(typed, (now) => {
    clearTimeout(timer)
    timer = setTimeout(() => (settled.value = now), PAUSE)
  })
  return settled
}
