import { stringify } from 'csv-stringify/browser/esm/sync'
import { computed, ref, shallowRef } from 'vue'
import { contract } from '~~/contract'
import type { Fault } from '~~/contract/common'
import {
  CUSTOMER_COLUMNS,
  DOCUMENT_COLUMNS,
  type ImportConverted,
  type ImportLook,
  type ImportMapBody,
  type ImportResult,
  type Job,
} from '~~/contract/documents'
import { ORDER_COLUMNS } from '~~/contract/exposure'
import { useJob } from '~/composables/job'
import { ApiProblem, call, problemText } from '~/utils/api'
import { fill } from '~/utils/fill'

export type ImportKind = 'customers' | 'documents' | 'orders'

/** What must be in every row: from a column of the file, or the same for all. */
const NEEDED: Record<ImportKind, string[]> = {
  customers: ['number', 'name', 'country'],
  documents: ['number', 'customer', 'date', 'amount'],
  orders: ['number', 'customer', 'date', 'amount'],
}

const COLUMNS: Record<ImportKind, readonly string[]> = {
  customers: CUSTOMER_COLUMNS,
  documents: [...DOCUMENT_COLUMNS, 'debit', 'credit'],
  orders: ORDER_COLUMNS,
}

/** Our columns that may be chosen for theirs. */
export const oursOf = (kind: ImportKind): string[] => [...COLUMNS[kind]]

/**
 * A table on its way in: looked at, its columns said, brought into our form, checked, imported. Each change
 * of the map checks it again.
 */
export function useImportTable() {
  const file = ref<File | null>(null)
  const bytes = shallowRef<Uint8Array<ArrayBuffer> | null>(null)
  const look = ref<ImportLook | null>(null)
  const map = ref<ImportMapBody | null>(null)
  const converted = ref<ImportConverted | null>(null)
  const checked = ref<ImportResult | null>(null)
  const faults = ref<Fault[]>([])
  const trouble = ref('')
  const busy = ref(false)
  const existing = ref<'refuse' | 'skip' | 'update'>('refuse')
  const opening = ref(false)
  const { job, follow, stop } = useJob()
  let turn = 0

  const missing = computed(() => {
    const m = map.value
    if (!m) return []
    const has = (c: string) => c in m.columns || Boolean(m.fixed[c])
    // Where customers are only changed, the number is all that is needed.
    const needed = m.kind === 'customers' && existing.value === 'update' ? ['number'] : NEEDED[m.kind]
    return needed.filter(c => !has(c) && !(c === 'amount' && (has('debit') || has('credit'))))
  })

  function forget(): void {
    converted.value = null
    checked.value = null
    faults.value = []
    trouble.value = ''
    job.value = null
  }

  /** A step that may fail: what is wrong is told, and its faults kept. */
  async function attempt(work: () => Promise<void>): Promise<void> {
    busy.value = true
    try {
      await work()
    } catch (error) {
      trouble.value = problemText(error)
      if (error instanceof ApiProblem) faults.value = error.problem.errors ?? []
    } finally {
      busy.value = false
    }
  }

  async function take(chosen: File): Promise<void> {
    forget()
    look.value = map.value = null
    file.value = chosen
    await fill(bytes, async () => new Uint8Array(await chosen.arrayBuffer()))
    await see()
  }

  /** What the file may hold. `kind`: somebody said which it is. */
  async function see(kind?: ImportKind): Promise<void> {
    await attempt(async () => {
      await fill(look, () => call(contract.imports.look, { body: bytes.value!, query: { kind } }))
      map.value = look.value!.map
    })
    if (map.value) await check()
  }

  /** Brings the table into our form and asks whether it could be imported. */
  async function check(): Promise<void> {
    forget()
    const own = ++turn
    if (missing.value.length) return
    await attempt(async () => {
      const asked = { map: JSON.stringify(map.value) }
      const made = await call(contract.imports.convert, { body: bytes.value!, query: asked })
      if (own !== turn) return
      converted.value = made
      const ended = await run(true)
      if (own === turn) keep(ended)
    })
  }

  function keep(ended: Job): void {
    if (ended.state === 'done') checked.value = ended.result as ImportResult
    else {
      trouble.value = ended.detail.charAt(0).toUpperCase() + ended.detail.slice(1)
      faults.value = ended.errors
    }
  }

  const csvOf = (rows: readonly (readonly string[])[], more: readonly string[] = []) =>
    stringify([[...converted.value!.header, ...more], ...rows], {
      record_delimiter: 'windows',
      quoted_match: /[\r\n]/,
    })

  async function run(dryRun: boolean): Promise<Job> {
    const queued = (await call(contract.imports[map.value!.kind], {
      query: {
        dryRun: dryRun ? '1' : undefined,
        skipExisting: existing.value === 'skip' ? '1' : undefined,
        update: existing.value === 'update' && map.value!.kind === 'customers' ? '1' : undefined,
        opening: opening.value && map.value!.kind === 'documents' ? '1' : undefined,
      },
      body: csvOf(converted.value!.rows),
      headers: { prefer: 'respond-async' },
    })) as unknown as { job: number }
    return follow(queued.job)
  }

  /** Imports what was checked, and remembers how such tables are laid out. */
  async function takeIn(): Promise<ImportResult | null> {
    let done: ImportResult | null = null
    await attempt(async () => {
      trouble.value = ''
      const ended = await run(false)
      keep(ended)
      if (ended.state !== 'done') return
      done = ended.result as ImportResult
      const remembered = { map: JSON.stringify(map.value), remember: '1' as const }
      await call(contract.imports.convert, { body: bytes.value!, query: remembered })
      forget()
      file.value = look.value = map.value = null
    })
    return done
  }

  /** Line of the file that a fault is on: the checked form has a header and one line for each row. */
  const lineOf = (fault: Fault): number | undefined =>
    fault.line === undefined ? undefined : (converted.value?.lines[fault.line - 2] ?? fault.line)

  /** The faulty rows in our form with what is wrong with each, to be mended and dropped here again. */
  function repairFile(): string {
    const { rows } = converted.value!
    const byRow = new Map<number, string[]>()
    for (const f of faults.value)
      if (f.line !== undefined)
        byRow.set(f.line - 2, [...(byRow.get(f.line - 2) ?? []), `${f.column}: ${f.message}`])
    return csvOf(
      [...byRow].flatMap(([n, why]) => (rows[n] ? [[...rows[n], why.join('; ')]] : [])),
      ['fault'],
    )
  }

  return {
    ...{ file, look, map, converted, checked, faults, trouble, busy, existing, opening, job, missing },
    ...{ take, see, check, takeIn, stop, lineOf, repairFile },
  }
}
