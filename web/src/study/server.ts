/** The session's way to the server. */
import { api, got } from '@/api/client'
import type { Server } from '@/session/session'

export function serverOf(study: string): Server {
  const path = { study_id: study }
  return {
    overview: (known) => got(api.GET('/api/studies/{study_id}', { params: { path, query: { known } } })),
    async step(id, base, over, step) {
      const outcome = await got(api.POST('/api/studies/{study_id}/steps', { params: { path }, body: { id, base, over, step } }))
      return { revision: outcome.revision, outcome }
    },
    async move(to, base, over, state) {
      const body = { to, expected: base, over, state }
      const { revision } = await got(api.POST('/api/studies/{study_id}/head', { params: { path }, body }))
      return { revision, outcome: null }
    },
  }
}
