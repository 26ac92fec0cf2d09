/**
 * Something fetched that follows a key: the old answer stays until the new one is there, and one that comes late for
 * an older key is dropped.
 */
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, shallowRef, type ShallowRef, toValue, watch, type WatchSource } from 'vue'

import { complainOf } from './notices'

/** The answer under the name that it has in the cache, and the key that it follows; null where nothing is to be asked. */
export function useAsked<K, T>(
  name: string,
  key: WatchSource<K>,
  ask: (key: K) => Promise<T> | null,
): Readonly<ShallowRef<T | null>> {
  const answer = shallowRef<T | null>(null)
  const current = computed(() => toValue(key) as K)
  const { data, error, refetch } = useQuery({
    queryKey: computed(() => [name, current.value]),
    queryFn: async () => (await ask(current.value)) ?? null,
    placeholderData: keepPreviousData,
  })
  watch(data, (found) => (answer.value = (found as T | null | undefined) ?? null), { immediate: true })
  watch(error, (found) => found && complainOf(found, () => void refetch()))
  return answer
}
