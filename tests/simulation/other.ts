import { fork, type ChildProcess } from 'node:child_process'
import { resolve as fromRoot } from 'node:path'
import type { Refusal } from '../../core/ledger'
import type { Isolation } from '../../server/db/connection'
import { LedgerRefused } from '../../server/ledger/command'
import type { Written } from '../../server/ledger/write'
import { ProblemError } from '../../server/services/common/problems'
import type { Actor } from '../../server/services/people/scope'

/** What the second process is asked to do; `key` is its idempotency key. */
export interface Asked {
  id: number
  url: string
  isolation: Isolation
  actor: Actor
  name: string
  ask: unknown
  key: string
}

/** `written` comes before the commit, one of the others at the end. */
export type Answer = { id: number } & (
  | { written: readonly Written[] }
  | { result: unknown }
  | { refusals: Refusal[] }
  | { problem: [status: number, title: string, detail: string] }
  | { fault: string }
)

/** The second process died before it answered; `written` as it had said, if it came so far. */
export class Died extends Error {
  constructor(readonly written: readonly Written[]) {
    super('the second process died')
  }
}

interface Waiting {
  written: readonly Written[]
  resolve: (done: { written: readonly Written[]; result: unknown }) => void
  reject: (error: unknown) => void
  /** Milliseconds from its words about what it has written to its death. */
  killAfter: number | null
}

/** A second process on the same database, which can be killed at any moment. */
export class OtherProcess {
  private child: ChildProcess | undefined
  private readonly waiting = new Map<number, Waiting>()
  private last = 0

  constructor(private readonly isolation: Isolation) {}

  /** Throws as `perform` does, or Died. */
  perform(
    ask: Omit<Asked, 'id' | 'isolation'>,
    killAfter: number | null,
  ): Promise<{ written: readonly Written[]; result: unknown }> {
    const id = ++this.last
    const child = (this.child ??= this.start())
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { written: [], resolve, reject, killAfter })
      child.send({ ...ask, id, isolation: this.isolation } satisfies Asked)
    })
  }

  private start(): ChildProcess {
    const child = fork(fromRoot('tests/simulation/otherMain.ts'), { execArgv: ['--import', 'tsx'] })
    child.on('message', (answer: Answer) => this.hear(child, answer))
    child.on('exit', () => {
      if (this.child === child) this.child = undefined
      for (const [id, { reject, written }] of this.waiting) {
        this.waiting.delete(id)
        reject(new Died(written))
      }
    })
    return child
  }

  private hear(child: ChildProcess, answer: Answer): void {
    const waiting = this.waiting.get(answer.id)
    if (!waiting) return
    if ('written' in answer) {
      waiting.written = answer.written
      if (waiting.killAfter !== null) setTimeout(() => child.kill('SIGKILL'), waiting.killAfter)
      return
    }
    this.waiting.delete(answer.id)
    if ('result' in answer) waiting.resolve({ written: waiting.written, result: answer.result })
    else if ('refusals' in answer) waiting.reject(new LedgerRefused(answer.refusals))
    else if ('problem' in answer) waiting.reject(new ProblemError(...answer.problem))
    else waiting.reject(new Error(answer.fault))
  }

  close(): void {
    this.child?.removeAllListeners('exit')
    this.child?.kill('SIGKILL')
    this.child = undefined
  }
}
