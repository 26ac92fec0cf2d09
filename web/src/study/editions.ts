/** The editions of the study that is open. They are no steps: what is known of them is asked for anew when one changes here. */
import { ref } from 'vue'

import { api, got } from '@/api/client'
import { useAsked } from './asked'
import { useStudy } from './store'

const changed = ref(0)

export function useEditions() {
  const study = useStudy()
  const editions = useAsked('editions', () => [study.id, study.revision, changed.value] as const, ([study_id]) => got(api.GET('/api/studies/{study_id}/editions', { params: { path: { study_id } } })))
  return { editions, again: () => void changed.value++ }
}
