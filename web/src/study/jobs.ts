/** Long work: asks how far it is until it has ended. */
import { type Ref, ref } from 'vue'

import { api, got, type Job } from '@/api/client'
import { Refusal } from '@/api/refusal'

export interface Work {
  job: Ref<Job | null>
  run: (start: Promise<Job>) => Promise<Job | null>
  cancel: () => Promise<void>
}

/** Gives the finished job, null when it was cancelled or other work took its place; throws the refusal when it failed. */
export function useWork(): Work {
  const job = ref<Job | null>(null)
  let turn = 0

  const stop = (id: string): Promise<unknown> => got(api.DELETE('/api/jobs/{job_id}', { params: { path: { job_id: id } } }))

  async function run(start: Promise<Job>): Promise<Job | null> {
    const mine = ++turn
    try {
      let seen = await start
      while (mine === turn) {
        job.value = seen
        if (seen.status === 'failed' && seen.problem) throw new Refusal(seen.problem)
        if (seen.status !== 'running') return seen.status === 'done' ? seen : null
        await new Promise((done) => setTimeout(done, 120))
        seen = await got(api.GET('/api/jobs/{job_id}', { params: { path: { job_id: seen.id } } }))
      }
      if (seen.status === 'running') await stop(seen.id)
      return null
    } finally {
      if (mine === turn) job.value = null
    }
  }

  /** Asks the work to stop; what came of it is known when `run` ends, since it may just have been done. */
  async function cancel(): Promise<void> {
    if (job.value) await stop(job.value.id)
  }

  return { job, run, cancel }
}
