/** Something fetched that follows a key: the old answer stays until the new one is there. */
import { type ShallowRef, shallowRef, watch, type WatchSource } from 'vue'

import { attempt } from './notices'

export function useAsked<K, T>(key: WatchSource<K>, ask: (key: K) => Promise<T> | null): Readonly<ShallowRef<T | null>> {
  const answer = shallowRef<T | null>(null)
  let latest = 0
  let asked = ''
  watch(
    key,
    async (value) => {
      const same = JSON.stringify(value)
      if (same === asked) return
      asked = same
      const mine = ++latest
      const answering = ask(value)
      if (answering === null) {
        answer.value = null
        return
      }
      const found = await attempt(() => answering)
      if (found !== undefined && mine === latest) answer.value = found
    },
    { immediate: true },
  )
  return answer
}
