/** Puts the side sheet beside the work or away; from a stop that has none, it is shown beside the codebook. */
import { useRouter } from 'vue-router'

import { useStudy } from '@/study/store'
import { useSheets } from './sheets'

export function useSheetToggle(): () => void {
  const study = useStudy()
  const sheets = useSheets()
  const router = useRouter()
  return () => {
    const beside = ['codebook', 'records'].includes(String(router.currentRoute.value.name))
    sheets.shown = !beside || !sheets.shown
    if (!beside) void router.push({ name: 'codebook', params: { study: study.id } })
  }
}
