/** Long work: asks how far it is until it has ended. */
import { type Ref, ref } from 'vue'

import { api, got, type Job, Refusal } from '@/api/client'

export interface Work {
  job: Ref<Job | null>
  run: (start: Promise<Job>) => Promise<Job | null>
  cancel: () => Promise<void>
}

/** Gives the finished job, null when it was cancelled; throws the refusal when it failed. */
export function useWork(): Work {
  const job = ref<Job | null>(null)

  async function run(start: Promise<Job>): Promise<Job | null> {
    job.value = await start
    try {
      while (job.value.status === 'running') {
        await new Promise((done) => setTimeout(done, 120))
        job.value = await got(api.GET('/api/jobs/{job_id}', { params: { path: { job_id: job.value.id } } }))
      }
      if (job.value.status === 'failed' && job.value.problem) throw new Refusal(job.value.problem)
      return job.value.status === 'done' ? job.value : null
    } finally {
      job.value = null
    }
  }

  async function cancel(): Promise<void> {
    if (job.value) await got(api.DELETE('/api/jobs/{job_id}', { params: { path: { job_id: job.value.id } } }))
  }

  return { job, run, cancel }
}
