/** The panel that is open in place of the page, if any; opened by buttons, keys and the finder. */
import { defineStore } from 'pinia'
import { ref } from 'vue'

import type { AnyStep, Schema } from '@/api/client'
import { useStudy } from '@/study/store'
import { useChosen } from './chosen'

export const usePanel = defineStore('panel', () => {
  const study = useStudy()
  const chosen = useChosen()
  const open = ref<string | null>(null)
  /** Codebook text that was pasted for the chosen tags. */
  const pasted = ref('')
  /** Codebook text of variables that are to be added. */
  const fresh = ref('')

  function close(): void {
    open.value = null
    pasted.value = fresh.value = ''
    chosen.targets = null
  }

  /** Takes the step that a panel has put together, and closes it when it was accepted. */
  async function take(step: AnyStep): Promise<Schema['StepOutcome'] | undefined> {
    const outcome = await study.take(step)
    if (outcome) close()
    return outcome
  }

  return { open, pasted, fresh, close, take }
})
