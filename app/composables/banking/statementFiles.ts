import { ref, shallowRef } from 'vue'
import { contract } from '~~/contract'
import type { BankAccount, StatementResult } from '~~/contract/banking/lines'
import type { Fault } from '~~/contract/common'
import { useJob } from '~/composables/job'
import { ApiProblem, call, problemText } from '~/utils/api'

/**
 * The bank accounts, and how their statements come in: what the bank left, or a file. `account` is the one
 * that is looked at; `reload` reads the lines again after a file was taken.
 */
export function useStatementFiles(account: () => number | undefined, reload: () => Promise<unknown>) {
  const accounts = shallowRef<BankAccount[]>([])
  const waiting = ref<{ name: string; bytes: number }[]>([])
  const aside = ref<{ id: number; name: string; reason: string; at: string }[]>([])
  const busy = ref(false)
  const said = ref('')
  const faults = ref<Fault[]>([])
  const taken = ref<StatementResult | null>(null)
  const { job, follow } = useJob()

  async function head(): Promise<void> {
    try {
      const [a, i] = await Promise.all([call(contract.banking.accounts), call(contract.banking.inbox)])
      accounts.value = a.items
      waiting.value = i.items
      aside.value = i.setAside
    } catch (error) {
      said.value = problemText(error)
    }
  }
  void head()
  function tellTaken(r: StatementResult): void {
    taken.value = r
    said.value = ''
    faults.value = []
  }
  /** What was wrong may be mended: the file is taken with the next load. */
  async function tryAgain(id: number): Promise<void> {
    try {
      await call(contract.banking.tryAgain, { params: { id } })
      await head()
    } catch (error) {
      said.value = problemText(error)
    }
  }
  async function takeInbox(): Promise<void> {
    if (!waiting.value.length || busy.value) return
    busy.value = true
    try {
      tellTaken(await call(contract.banking.takeInbox))
    } catch (error) {
      said.value = problemText(error)
    } finally {
      busy.value = false
    }
    await Promise.all([reload(), head()])
  }
  async function takeFile(file: File): Promise<void> {
    busy.value = true
    taken.value = null
    said.value = ''
    faults.value = []
    try {
      const csv = /\.csv$/i.test(file.name)
      if (csv && !account())
        throw new Error('A CSV does not tell whose account it is. Choose the account first.')
      const queued = (await call(contract.banking.take, {
        query: { name: file.name, account: csv ? account() : undefined },
        body: file,
        headers: { prefer: 'respond-async' },
      })) as unknown as { job: number }
      const ended = await follow(queued.job)
      if (ended.state === 'done') tellTaken(ended.result as StatementResult)
      else {
        said.value = `${ended.detail.charAt(0).toUpperCase()}${ended.detail.slice(1)}`
        faults.value = ended.errors
      }
    } catch (error) {
      said.value = problemText(error)
      if (error instanceof ApiProblem) faults.value = error.problem.errors ?? []
    } finally {
      busy.value = false
    }
    await Promise.all([reload(), head()])
  }

  return { accounts, waiting, aside, busy, said, faults, taken, job, head, tryAgain, takeInbox, takeFile }
}
