/** Pages of entries for the session: what is in sight and lacks is fetched, and the next screenful ahead of it. */
import { api, got } from '@/api/client'
import { ROWS } from '@/session/cells'
import { complainOf } from '@/study/notices'
import { useStudy } from '@/study/store'
import { type RowsPage, useRecordView } from './view'

export function usePages() {
  const study = useStudy()
  const view = useRecordView()
  const asked = new Set<string>()

  async function fetchBlock(block: number, variables: string[]): Promise<void> {
    const cells = study.session?.cells
    const tagOf = (id: string): string => `${study.id} ${block} ${id} ${study.revision} ${view.query.arrangement ?? ''}`
    const wanted = cells?.lacking(block, variables).filter((id) => !asked.has(tagOf(id))) ?? []
    if (!cells || !wanted.length) return
    const tags = wanted.map(tagOf)
    tags.forEach((tag) => asked.add(tag))
    const rows = view.query
    const query = { ...rows, start: block * ROWS, stop: (block + 1) * ROWS, variables: wanted.join(',') }
    try {
      const page = (await got(api.GET('/api/studies/{study_id}/records', { params: { path: { study_id: study.id }, query } }))) as unknown as RowsPage
      const mine = cells === study.session?.cells && rows.arrangement === view.query.arrangement && rows.seen === view.query.seen
      if (mine && view.take(page)) cells.accept(block, page)
    } catch (error) {
      complainOf(error, () => void fetchBlock(block, variables))
    } finally {
      tags.forEach((tag) => asked.delete(tag))
    }
  }

  /** Asks for what is in sight: rows from–to, both included, of some variables; and for the rows below, before they are. */
  function look(first: number, last: number, variables: string[]): void {
    const below = Math.min(last + (last - first) + 1, Math.max(0, view.rows - 1))
    for (let block = Math.floor(first / ROWS); block <= Math.floor(Math.max(last, below) / ROWS); block++) {
      void fetchBlock(block, variables)
    }
  }

  return { look }
}
