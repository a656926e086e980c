import { computed, ref, watch, type Ref } from 'vue'
import { contract } from '~~/contract'
import type { Run, RunNotice } from '~~/contract/reminders'
import type { Edit } from '~~/core/reminders'
import { useGuard } from '~/composables/guard'
import { useJob } from '~/composables/job'
import { usePages } from '~/composables/pages'
import { useDesk } from '~/stores/desk'
import { useSession } from '~/stores/session'
import { call, problemText } from '~/utils/api'
import { plural } from '~/utils/format'
import { fill, settle } from '~/utils/fill'

/** A reminder run on screen: read, followed while a job is at work on it, changed, confirmed. */
export function useReminderRun(id: Ref<number>) {
  const desk = useDesk()
  const session = useSession()
  const run = ref<Run | null>(null)
  const search = ref('')
  const { trouble, guard, complain } = useGuard()
  const { job, follow, stop } = useJob()
  const busy = ref(false)
  const following = ref(0)

  async function load(): Promise<void> {
    try {
      await fill(run, () => call(contract.reminders.run, { params: { id: id.value } }))
      if (run.value?.job) void followJob(run.value.job)
    } catch (error) {
      complain(error)
    }
  }
  async function followJob(jobId: number): Promise<void> {
    if (following.value === jobId) return
    following.value = jobId
    const ended = await follow(jobId).catch(() => null)
    following.value = 0
    if (ended && ended.state !== 'done') trouble.value = ended.detail
    await load()
  }
  watch(id, load, { immediate: true })

  const read = (cursor: string | undefined) =>
    call(contract.reminders.notices, {
      params: { id: id.value },
      query: { search: search.value || undefined, limit: 100, cursor },
    })
  const list = usePages<RunNotice, Awaited<ReturnType<typeof read>>>(
    read,
    [id, search, () => run.value?.version, () => run.value?.state],
    120,
  )

  const open = computed(() => run.value?.state === 'proposed' && session.can('reminders.run'))
  const progress = computed(() => {
    if (!following.value) return ''
    const { step, done, total } = job.value ?? { step: '', done: 0, total: 0 }
    return total > 1 ? `${step}, ${done} of ${total}` : step || 'waits for its turn'
  })

  /** Changes a notice; `change` is put over earlier changes of it, `undefined` takes one back. */
  async function edit(notice: RunNotice, change: Edit): Promise<void> {
    if (busy.value || !run.value) return
    busy.value = true
    const next = Object.fromEntries(
      Object.entries({ ...notice.edit, ...change }).filter(([, value]) => value !== undefined),
    )
    try {
      const answer = await call(contract.reminders.edit, {
        params: { id: id.value },
        body: { version: run.value.version, key: notice.key, edit: next },
      })
      run.value = answer.run
      trouble.value = ''
    } catch (error) {
      trouble.value = problemText(error)
    } finally {
      busy.value = false
    }
  }
  async function confirm(): Promise<void> {
    if (!open.value || busy.value || !run.value?.totals.notices) return
    busy.value = true
    try {
      await settle(run, () =>
        call(contract.reminders.confirm, {
          params: { id: id.value },
          body: { version: run.value!.version },
        }),
      )
      trouble.value = ''
      if (run.value.job !== null) await followJob(run.value.job)
      if (run.value.state === 'confirmed')
        desk.say({
          text: `${plural(run.value.totals.notices, 'notice')} out.`,
          to: '/outbox',
          action: 'See the outbox',
        })
      await desk.refresh()
    } catch (error) {
      trouble.value = problemText(error)
    } finally {
      busy.value = false
    }
  }

  async function discard(): Promise<void> {
    await guard(
      () => call(contract.reminders.discard, { params: { id: id.value } }),
      `Run ${id.value} discarded; nothing was sent.`,
    )
    if (!trouble.value) await navigateTo('/reminders')
  }

  /** The same run proposed anew, when what it saw is over. */
  async function again(): Promise<void> {
    const { asOf, policy, kind, scope } = run.value!
    try {
      const fresh = await call(contract.reminders.propose, { body: { asOf, policy, kind, ...scope } })
      await call(contract.reminders.discard, { params: { id: id.value } })
      trouble.value = ''
      await navigateTo(`/reminders/${fresh.id}`)
    } catch (error) {
      complain(error)
    }
  }

  return {
    run,
    list,
    search,
    trouble,
    busy,
    open,
    progress,
    stop,
    edit,
    confirm,
    discard,
    again,
    load,
  }
}
