/** Something fetched that follows a key: the old answer stays until the new one is there. */
import { type ShallowRef, shallowRef, watch, type WatchSource } from 'vue'

import { attempt } from './notices'

export function useAsked<K, T>(key: WatchSource<K>, ask: (key: K) => Promise<T> | null): Readonly<ShallowRef<T | null>> {
  const answer = shallowRef<T | null>(null)
  let latest = 0
  watch(
    key,
    async (value) => {
      const mine = ++latest
      const asked = ask(value)
      if (asked === null) {
        answer.value = null
        return
      }
      const found = await attempt(() => asked)
      if (found !== undefined && mine === latest) answer.value = found
    },
    { immediate: true },
  )
  return answer
}
