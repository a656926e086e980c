import { existsSync, readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { addBankWorkingDays, onBankWorkingDay, type IsoDate } from '../core/calendar'
import type { BankAnswer } from '../core/payments'
import {
  fileFaults,
  readPain,
  writePain002,
  type FileFault,
  type ReadBlock,
  type ReadFile,
  type ReadPayment,
} from '../formats/payments'
import type { StatementLine } from '../formats/statements'
import { StatementFault } from '../formats/statements'
import { chance } from './chance'

/*
 * What the simulated bank does with files of payments: it answers each with a pain.002, and books what it
 * executes on later statements, some of which comes back. It knows nothing of the application but the files.
 */

/** A line that is known to come. */
export interface PlannedLine {
  currency: string
  kind: 'file' | 'return'
  how: string
  line: StatementLine
}

/** How an account behaves when money is pulled from it, or paid to it. */
export interface AccountHabit {
  /** Code of ISO 20022 that it answers with. */
  code: string
  /** Before it is booked (refused in the answer), or so many bank working days after. */
  after: number
  /** Only so often; always when left out. */
  times?: number
}

export interface PaymentMemory {
  seed: string
  /** Names of files that were taken. */
  taken?: string[]
  /** Message ids that were taken: none comes twice. */
  messages?: string[]
  habits?: Record<string, AccountHabit>
}

/** One payment in so many comes back for a reason of its own, beside those of known habit. */
const ODD_SHARE = 0.012
/** What the bank keeps for itself of what comes back because of the account, minor units. */
const KEPT_FOR_ACCOUNT = 350
const keptFor = (code: string): number => (code.startsWith('AC') ? KEPT_FOR_ACCOUNT : 0)
/** Bank working days until an ordinary return is booked. */
const ODD_AFTER = 3

/**
 * Takes what lies in the outbox by the end of a day. Answers the lines that will come, by when each is
 * booked, and leaves a pain.002 in the inbox for each file.
 */
export function takePayments(folder: string, memory: PaymentMemory, day: IsoDate): PlannedLine[] {
  const outbox = join(folder, 'outbox')
  if (!existsSync(outbox)) return []
  const taken = new Set(memory.taken ?? [])
  const fresh = readdirSync(outbox)
    .filter(f => f.endsWith('.xml') && !taken.has(f))
    .sort()
  const planned: PlannedLine[] = []
  for (const name of fresh) {
    planned.push(...takeFile(folder, memory, name, readFileSync(join(outbox, name), 'utf8'), day))
    taken.add(name)
  }
  memory.taken = [...taken]
  return planned
}

function takeFile(
  folder: string,
  memory: PaymentMemory,
  name: string,
  text: string,
  day: IsoDate,
): PlannedLine[] {
  let file: ReadFile
  try {
    file = readPain(text)
  } catch (error) {
    if (!(error instanceof StatementFault)) throw error
    report(folder, day, { format: '', id: name.replace(/\.xml$/, ''), blocks: [] }, 'RJCT', {
      code: 'FF01',
      text: error.message,
    })
    return []
  }
  const messages = new Set(memory.messages ?? [])
  const faults: FileFault[] = messages.has(file.id)
    ? [{ code: 'AM05', endToEndId: null, message: `message ${file.id} was taken before` }]
    : fileFaults(file, day)
  const whole = faults.find(f => f.endToEndId === null)
  if (whole) {
    report(folder, day, file, 'RJCT', { code: whole.code, text: whole.message })
    return []
  }
  memory.messages = [...messages, file.id]
  const refused = new Map(faults.map(f => [f.endToEndId!, { code: f.code as string, text: f.message }]))
  for (const p of file.blocks.flatMap(b => b.payments)) {
    const habit = habitOf(memory, p)
    if (habit?.after === 0 && !refused.has(p.endToEndId))
      refused.set(p.endToEndId, { code: habit.code, text: '' })
  }
  report(folder, day, file, refused.size ? 'PART' : 'ACCP', { code: '', text: '' }, refused)
  return file.blocks.flatMap(block => bookBlock(memory, file, block, refused, day))
}

/** What an account does; a habit that comes only so often wears out. */
function habitOf(memory: PaymentMemory, p: ReadPayment): AccountHabit | null {
  const habit = memory.habits?.[p.iban]
  if (!habit || habit.times === 0) return null
  return habit
}

function wearOut(memory: PaymentMemory, iban: string): void {
  const habit = memory.habits?.[iban]
  if (habit?.times) habit.times--
}

function report(
  folder: string,
  day: IsoDate,
  file: Pick<ReadFile, 'format' | 'id' | 'blocks'>,
  status: string,
  why: { code: string; text: string },
  refused: ReadonlyMap<string, { code: string; text: string }> = new Map(),
): void {
  const answer: BankAnswer = {
    id: `ST-${file.id}`.slice(0, 35),
    fileId: file.id,
    status,
    ...why,
    blocks: [],
    payments: [...refused].map(([endToEndId, r]) => ({ endToEndId, status: 'RJCT', ...r })),
  }
  const blockOf = (endToEndId: string) =>
    file.blocks.find(b => b.payments.some(p => p.endToEndId === endToEndId))?.id ?? `${file.id}-1`
  const xml = writePain002({
    answer,
    of: file.format || 'pain.001.001.09',
    createdAt: `${day}T19:40:00`,
    bank: { name: 'Simulated bank', bic: '' },
    blockOf,
  })
  const path = join(folder, 'inbox', `${day}-${file.id}-status.xml`)
  writeFileSync(`${path}.part`, xml)
  renameSync(`${path}.part`, path)
}

/** One sum for a block on its day, and what of it comes back later. */
function bookBlock(
  memory: PaymentMemory,
  file: ReadFile,
  block: ReadBlock,
  refused: ReadonlyMap<string, unknown>,
  day: IsoDate,
): PlannedLine[] {
  const going = block.payments.filter(p => !refused.has(p.endToEndId))
  if (!going.length) return []
  const isDebit = file.kind === 'debit'
  const sign = isDebit ? 1 : -1
  const bookedOn = onBankWorkingDay(block.date < day ? day : block.date)
  const { currency } = going[0]!
  const sum = going.reduce((a, p) => a + (p.amount ?? 0), 0)
  const lines: PlannedLine[] = [
    {
      currency,
      kind: 'file',
      how: file.id,
      line: {
        ...lineOf(bookedOn, sign * sum, `Z${file.id}${block.id.slice(file.id.length)}`),
        text: `${isDebit ? 'DIRECT DEBITS' : 'TRANSFERS'} ${block.id} ${going.length} ITEMS`,
        code: isDebit ? 'PMNT-IDDT-ESDD' : 'PMNT-ICDT-ESCT',
        // A single payment is told with its own id.
        endToEndId: going.length === 1 ? going[0]!.endToEndId : '',
      },
    },
  ]
  for (const p of going) {
    const back = comesBack(memory, p)
    if (!back) continue
    lines.push({
      currency,
      kind: 'return',
      how: p.endToEndId,
      line: {
        ...lineOf(
          addBankWorkingDays(bookedOn, back.after),
          -sign * (p.amount ?? 0) - keptFor(back.code),
          `Q${p.endToEndId}`,
        ),
        name: p.name,
        iban: p.iban,
        text: `RETURN ${p.endToEndId}`,
        endToEndId: p.endToEndId,
        code: isDebit ? 'PMNT-IDDT-UPDD' : 'PMNT-ICDT-RRTN',
        returnReason: back.code,
      },
    })
    wearOut(memory, p.iban)
  }
  return lines
}

function comesBack(memory: PaymentMemory, p: ReadPayment): { code: string; after: number } | null {
  const habit = habitOf(memory, p)
  if (habit) return habit.after > 0 ? habit : null
  const c = chance(`${memory.seed} ${p.endToEndId} ${p.iban}`)
  return c.happens(ODD_SHARE) ? { code: c.pick(['MS03', 'AC04', 'AM04', 'AC06']), after: ODD_AFTER } : null
}

const lineOf = (bookingDate: IsoDate, amount: number, bankReference: string): StatementLine => ({
  bookingDate,
  valueDate: bookingDate,
  amount,
  name: '',
  iban: '',
  text: '',
  reference: '',
  endToEndId: '',
  bankReference,
  code: '',
  returnReason: '',
})
