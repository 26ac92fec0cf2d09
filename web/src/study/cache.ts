/** How what is fetched is kept: by key, for as long as somebody looks at it; keys say what an answer depends on. */
import { QueryClient } from '@tanstack/vue-query'

import { Refusal } from '@/api/refusal'

export const cache = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: Infinity, // a key holds the revision that last touched what it looks at
      gcTime: 20_000,
      refetchOnWindowFocus: false,
      refetchOnReconnect: false,
      retry: (failures, error) => error instanceof Refusal && error.lost && failures < 2,
      retryDelay: 400,
    },
  },
})
