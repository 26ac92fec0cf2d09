/** Pages of entries for the session: what is in sight and lacks is fetched, and the next screenful ahead of it. */
import { api, got } from '@/api/client'
import { type Page, ROWS } from '@/session/cells'
import { complainOf } from '@/study/notices'
import { useStudy } from '@/study/store'

export function usePages() {
  const study = useStudy()
  const asked = new Set<string>()

  async function fetchBlock(block: number, variables: string[]): Promise<void> {
    const cells = study.session?.cells
    const tagOf = (id: string): string => `${study.id} ${block} ${id} ${study.revision}`
    const wanted = cells?.lacking(block, variables).filter((id) => !asked.has(tagOf(id))) ?? []
    if (!cells || !wanted.length) return
    const tags = wanted.map(tagOf)
    tags.forEach((tag) => asked.add(tag))
    const query = { start: block * ROWS, stop: (block + 1) * ROWS, variables: wanted.join(',') }
    try {
      const page = await got(api.GET('/api/studies/{study_id}/records', { params: { path: { study_id: study.id }, query } }))
      if (cells === study.session?.cells) cells.accept(block, page as Page)
    } catch (error) {
      complainOf(error, () => void fetchBlock(block, variables))
    } finally {
      tags.forEach((tag) => asked.delete(tag))
    }
  }

  /** Asks for what is in sight: rows from–to, both included, of some variables; and for the rows below, before they are. */
  function look(first: number, last: number, variables: string[]): void {
    const below = Math.min(last + (last - first) + 1, Math.max(0, (study.overview?.records ?? 0) - 1))
    for (let block = Math.floor(first / ROWS); block <= Math.floor(Math.max(last, below) / ROWS); block++) {
      void fetchBlock(block, variables)
    }
  }

  return { look }
}
