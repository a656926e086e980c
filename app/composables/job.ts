import { ref } from 'vue'
import { contract } from '~~/contract'
import type { Job } from '~~/contract/documents'
import { call } from '~/utils/api'

const isEnded = (job: Job) => ['done', 'failed', 'cancelled'].includes(job.state)

/** Follows a job by its events until it ends; `job` is its latest state. */
export function useJob() {
  const job = ref<Job | null>(null)
  async function lastState(id: number): Promise<Job> {
    const last = await call(contract.imports.job, { params: { id } })
    job.value = last
    return last
  }
  function follow(id: number): Promise<Job> {
    return new Promise((resolve, reject) => {
      const events = new EventSource(`/api/jobs/${id}/events`)
      events.onmessage = event => {
        job.value = JSON.parse(event.data as string) as Job
        if (isEnded(job.value)) {
          events.close()
          resolve(job.value)
        }
      }
      events.onerror = () => {
        events.close()
        // The stream ends with the job: its last state can always be asked for.
        void lastState(id).then(last => {
          if (isEnded(last)) resolve(last)
          else setTimeout(() => follow(id).then(resolve, reject), 500)
        }, reject)
      }
    })
  }
  const stop = () => (job.value ? call(contract.imports.cancel, { params: { id: job.value.id } }) : undefined)
  return { job, follow, stop }
}
