import { z } from 'zod'
import { cell } from '../db/rows'
import { Customers, LedgerImage, NotInOrder, OpenNow, type Moment, type Open } from '../../core/image'
import { Scratch } from '../../core/aging'
import type { Handle } from '../db/handle'
import { extend, fill, readCustomers, readMerges } from './feed'

/** What questions are asked of: the ledger and its customers, as they were at its last entry. */
export interface Books {
  ledger: LedgerImage
  customers: Customers
  openAt: (moment: Moment) => Open
  /** Arrays that its questions use again. */
  scratch?: Scratch
}

/** The ledger does not fit into the memory it may take: questions go to the tables. */
export class TooLarge extends Error {}

const MB = 1024 * 1024

const catchUpRow = z.object({
  entry: cell.whole.nullable(),
  customers: cell.text.nullable(),
})

/** The ledger in the memory of this thread, brought up to date before each question. */
export class Image implements Books {
  ledger = new LedgerImage()
  customers = new Customers([])
  readonly scratch = new Scratch()
  private now = new OpenNow(this.ledger)
  private customersVersion = -1
  private merges = 0

  /** `most`: bytes it may take; beyond that `catchUp` throws TooLarge. */
  constructor(
    private readonly database: Handle,
    private readonly most: number = mostBytes(),
  ) {}

  get bytes(): number {
    return this.ledger.bytes + this.now.bytes
  }

  openAt(moment: Moment): Open {
    return this.now.at(moment)
  }

  /** Brings it up to what is committed now. Throws TooLarge. */
  async catchUp(): Promise<void> {
    const [there] = await this.database.rows(
      catchUpRow,
      `SELECT (SELECT MAX(id) FROM entry) AS entry,
        (SELECT value FROM setting WHERE name = 'customers') AS customers`,
    )
    const until = there!.entry ?? 0
    const version = Number(there!.customers ?? 0)
    try {
      await this.extendTo(until)
    } catch (error) {
      if (!(error instanceof NotInOrder)) throw error
      await this.anew(until)
    }
    if (version !== this.customersVersion || this.hasUnknownCustomer()) {
      this.customers = await readCustomers(this.database)
      await this.mergeCustomers()
      this.customersVersion = version
    }
    if (this.bytes > this.most)
      throw new TooLarge(`the ledger takes ${Math.round(this.bytes / MB)} MB in memory`)
  }

  /** What was moved before the ledger was read is moved already: nothing is left to move then. */
  private async mergeCustomers(): Promise<void> {
    const merges = await readMerges(this.database)
    for (const { fromId, intoId } of merges) this.ledger.mergeCustomers(fromId, intoId)
    if (merges.length !== this.merges) this.now.readCustomers()
    this.merges = merges.length
  }

  private async extendTo(until: number): Promise<void> {
    if (until === this.ledger.lastEntry) return
    // Fewer entries than we know of: it is another database than it was.
    if (until < this.ledger.lastEntry || this.ledger.lastEntry === 0) return this.anew(until)
    await extend(this.database, this.ledger, until)
    this.now.catchUp()
  }

  private async anew(until: number): Promise<void> {
    const ledger = new LedgerImage()
    await fill(this.database, ledger, until)
    this.ledger = ledger
    this.now = new OpenNow(ledger)
    this.now.catchUp()
  }

  /** Items of a customer who came after we read them. */
  private hasUnknownCustomer(): boolean {
    const { items } = this.ledger
    return items.count > 0 && this.customers.rowOf(items.column.customer[items.count - 1]!) < 0
  }
}

/**
 * BILANCIO_IMAGE_MB: what the ledger may take in memory; a gigabyte, some nine million items, unless said.
 */
export function mostBytes(): number {
  const said = process.env.BILANCIO_IMAGE_MB
  const mb = said === undefined ? 1024 : Number(said)
  if (!Number.isFinite(mb) || mb < 0)
    throw new Error(`BILANCIO_IMAGE_MB=${said} is not a size: use whole megabytes, 0 for none`)
  return mb * MB
}
