import { AsyncLocalStorage } from 'node:async_hooks'
import type { z } from 'zod'
import { QueryTypes, type Sequelize, type Transaction, type WhereOptions } from 'sequelize'
import type { NewRow, Row, TableName } from './models'
import { Busy, type Patience } from './patience'
import { backOff, isPassing, TRIES } from './retry'
import { checkRows, checksRows } from './rows'
import { asOptions, asValues, type Change, type Columns, type Found, type Reading, type Where } from './where'

export type Values = Record<string, unknown>
type Cells = Record<string, unknown>

/** The transaction that the code now running is inside of. */
const inside = new AsyncLocalStorage<Transaction>()

const CHUNK = 2000

/** Of each pool, how far apart the ids of one INSERT lie. */
const idSteps = new WeakMap<Sequelize, number>()

/** A statement that changes rows, with its values by `?`. */
export interface Statement {
  sql: string
  values: unknown[]
}

/** The statements that put rows of one shape into a table, each with how many rows it puts. */
export function inserting<Name extends TableName>(
  table: Name,
  rows: readonly NewRow<Name>[],
  how: { ignore?: boolean } = {},
): (Statement & { rows: number })[] {
  if (!rows.length) return []
  const columns = Object.keys(rows[0]!)
  const row = `(${columns.map(() => '?').join(', ')})`
  const into = `INSERT ${how.ignore ? 'IGNORE ' : ''}INTO ${table} (${columns.join(', ')}) VALUES `
  return chunksOf(rows, CHUNK).map(chunk => ({
    sql: into + chunk.map(() => row).join(', '),
    values: chunk.flatMap(r => columns.map(c => (r as Cells)[c] ?? null)),
    rows: chunk.length,
  }))
}

export function chunksOf<T>(list: readonly T[], size: number): T[][] {
  const chunks: T[][] = []
  for (let at = 0; at < list.length; at += size) chunks.push(list.slice(at, at + size))
  return chunks
}

/** For a simulation: awaited before each statement, so that it decides whose turn is next. */
export const turns: { next: (() => Promise<void>) | null } = { next: null }

/**
 * What the server speaks to the database with: the pool, or one transaction. Inside a transaction only its
 * own handle answers; a query on any other is a fault of ours and throws, since it would see another state,
 * and would wait for a second connection that ten people at once can never get.
 */
export class Handle {
  private beside: Handle | undefined
  private deferred: Statement[] = []
  /** The journey of what was deferred: whoever asks meanwhile comes after it. */
  private running: Promise<void> = Promise.resolve()

  constructor(
    readonly sequelize: Sequelize,
    readonly patience: Patience,
    private readonly tx: Transaction | null = null,
    private readonly open: (() => Handle) | null = null,
    private readonly isApart = false,
  ) {}

  get inTransaction(): boolean {
    return this.tx !== null
  }

  private transactionNow(): Transaction | undefined {
    if (this.isApart) return undefined
    const now = inside.getStore()
    if (now !== undefined && now !== this.tx) throw new Error('a query outside the transaction it belongs to')
    return this.tx ?? undefined
  }

  /** One SELECT with named values. */
  async select<T extends object = Cells>(sql: string, values: Values = {}): Promise<T[]> {
    const transaction = await this.before()
    return this.sequelize.query<T>(sql, { type: QueryTypes.SELECT, replacements: values, transaction })
  }

  /**
   * One SELECT of ours that pages or sums, with the schema of its rows: in tests each row is held against it.
   */
  async rows<Schema extends z.ZodType>(
    schema: Schema,
    sql: string,
    values: Values = {},
  ): Promise<z.output<Schema>[]> {
    const rows = await this.select(sql, values)
    if (checksRows) checkRows(schema, rows, sql)
    return rows as z.output<Schema>[]
  }

  /**
   * One statement that changes rows, with named values or, by `?`, a list. Answers how many rows it changed.
   */
  async run(sql: string, values: Values | unknown[] = {}): Promise<{ affectedRows: number }> {
    const transaction = await this.before()
    const answer: unknown = await this.sequelize.query(sql, { replacements: values, transaction })
    // Of a procedure the answer comes by itself, of all else behind the rows.
    const info = (Array.isArray(answer) ? answer[1] : answer) as { affectedRows?: number } | undefined
    return { affectedRows: info?.affectedRows ?? 0 }
  }

  /** Rows of a table that hold these values: a simple read, by the model of the table. */
  async find<Name extends TableName, const C extends Columns<Name> | undefined = undefined>(
    table: Name,
    where: Where<Name>,
    how: Reading<Name, C> = {},
  ): Promise<Found<Name, C>[]> {
    const transaction = await this.before()
    const model = this.sequelize.model(table)
    const found = await model.findAll({ ...asOptions(where, how), raw: true, transaction })
    return found as unknown as Found<Name, C>[]
  }

  /** Sets columns of the rows that hold these values, by the model. Answers how many it changed. */
  async update<Name extends TableName>(
    table: Name,
    change: Change<Name>,
    where: Where<Name>,
  ): Promise<number> {
    const transaction = await this.before()
    const [changed] = await this.sequelize.model(table).update(asValues(change), {
      where: where as WhereOptions,
      transaction,
      hooks: false,
      validate: false,
      silent: true,
    })
    return changed
  }

  /** Removes the rows that hold these values; `{}` all of the table. Answers how many there were. */
  async remove<Name extends TableName>(table: Name, where: Where<Name>): Promise<number> {
    const transaction = await this.before()
    return this.sequelize.model(table).destroy({ where: where as WhereOptions, transaction, hooks: false })
  }

  /** Rows of one shape into a table; of those whose key is there, the named columns are set. */
  async put<Name extends TableName>(
    table: Name,
    rows: readonly NewRow<Name>[],
    columns: readonly (keyof Row<Name> & string)[],
  ): Promise<void> {
    for (const { sql, values } of inserting(table, rows))
      await this.run(
        `${sql} ON DUPLICATE KEY UPDATE ${columns.map(c => `${c} = VALUES(${c})`).join(', ')}`,
        values,
      )
  }

  /**
   * Rows of one shape into a table. Answers their ids, in order; consecutive by the increment of the server.
   */
  async insert<Name extends TableName>(
    table: Name,
    rows: readonly NewRow<Name>[],
    how: { ignore?: boolean } = {},
  ): Promise<number[]> {
    const ids: number[] = []
    if (!rows.length) return ids
    const step = rows.length > 1 ? await this.idStep() : 1
    for (const { sql, values, rows: count } of inserting(table, rows, how)) {
      const transaction = await this.before()
      const [first] = await this.sequelize.query(sql, {
        type: QueryTypes.INSERT,
        replacements: values,
        transaction,
      })
      for (let i = 0; i < count; i++) ids.push(Number(first) + i * step)
    }
    return ids
  }

  /**
   * Statements that change rows and whose answer nobody needs: they go to the database together, in one
   * journey, before the next statement or the end of the transaction. Between two journeys all who wait for
   * our locks wait on.
   */
  defer(statements: readonly Statement[]): void {
    if (!this.tx) throw new Error('statements are deferred inside a transaction only')
    this.deferred.push(...statements)
  }

  private runDeferred(): Promise<void> {
    const statements = this.deferred
    if (statements.length) {
      this.deferred = []
      this.running = this.runTogether(statements)
    }
    return this.running
  }

  private async runTogether(statements: readonly Statement[]): Promise<void> {
    const transaction = this.transactionNow()
    if (turns.next) await turns.next()
    const [first] = statements
    const sql =
      statements.length === 1
        ? first!.sql
        : `BEGIN NOT ATOMIC ${statements.map(s => `${s.sql};`).join(' ')} END`
    await this.sequelize.query(sql, { replacements: statements.flatMap(s => s.values), transaction })
  }

  /** Before each statement: what was deferred, and, in a simulation, whose turn it is. */
  private async before(): Promise<Transaction | undefined> {
    const transaction = this.transactionNow()
    if (this.tx) await this.runDeferred()
    if (turns.next) await turns.next()
    return transaction
  }

  /** How far apart the ids of one INSERT lie: 1, or the number of nodes of a cluster. */
  private async idStep(): Promise<number> {
    const known = idSteps.get(this.sequelize)
    if (known) return known
    const [row] = await this.select<{ step: number }>('SELECT @@auto_increment_increment AS step')
    idSteps.set(this.sequelize, row!.step)
    return row!.step
  }

  /**
   * All of `work` or nothing. `work` speaks through the handle it is given; after a deadlock, of which
   * nothing stayed, it is done again.
   */
  async transaction<T>(work: (tx: Handle) => Promise<T>): Promise<T> {
    if (this.tx ?? inside.getStore()) throw new Error('a transaction inside a transaction')
    const lastWait = this.patience.lastWait()
    for (let attempt = 1; ; attempt++) {
      try {
        return await this.patience.inTurn(lastWait, () =>
          this.sequelize.transaction(tx => inside.run(tx, () => this.within(tx, work))),
        )
      } catch (error) {
        if (!isPassing(error)) throw error
        if (Date.now() > lastWait) throw new Busy('somebody else is working on the same at this moment')
        if (attempt >= TRIES) throw error
        await backOff(attempt)
      }
    }
  }

  private async within<T>(tx: Transaction, work: (tx: Handle) => Promise<T>): Promise<T> {
    const handle = new Handle(this.sequelize, this.patience, tx)
    const result = await work(handle)
    await handle.runDeferred()
    return result
  }

  /**
   * A handle with a connection of its own, for what must be told while a transaction runs: progress,
   * heartbeats.
   */
  apart(): Handle {
    if (!this.open) return this
    this.beside ??= new Handle(this.open().sequelize, this.patience, null, null, true)
    return this.beside
  }

  async close(): Promise<void> {
    await this.beside?.sequelize.close()
    await this.sequelize.close()
  }
}
