import { col, fn, literal, Op, type WhereOptions } from 'sequelize'
import type { NewRow, Row, TableName } from './models'

export { Op }

/** Values and functions of the database that a column can be set to. */
class Computed<T> {
  /** For types only. */
  declare readonly holds: T
  constructor(readonly sql: ReturnType<typeof literal> | ReturnType<typeof fn> | ReturnType<typeof col>) {}
}

/** What a column holds, with so much more. */
export function plus(column: string, more: number): Computed<number> {
  if (!Number.isSafeInteger(more)) throw new RangeError(`${more} is no whole number`)
  return new Computed(literal(`\`${column}\` ${more < 0 ? '-' : '+'} ${Math.abs(more)}`))
}

/** What another column of the row holds. */
export const column = <T>(name: string): Computed<T> => new Computed(col(name))

/** This moment by the clock of the database, UTC. */
export const now = (): Computed<string> => new Computed(fn('UTC_TIMESTAMP', 3))

interface Bounds<T> {
  [Op.lt]?: T
  [Op.lte]?: T
  [Op.gt]?: T
  [Op.gte]?: T
  [Op.ne]?: T
  [Op.not]?: null
  [Op.between]?: [T, T]
  [Op.notIn]?: readonly T[]
}

/** Rows whose columns hold these values, one of a list, or lie within bounds. */
export type Where<Name extends TableName> = {
  [Column in keyof Row<Name>]?:
    Row<Name>[Column] | readonly NonNullable<Row<Name>[Column]>[] | Bounds<NonNullable<Row<Name>[Column]>>
}

/** What columns are set to. */
export type Change<Name extends TableName> = {
  [Column in keyof NewRow<Name>]?: Row<Name>[Column] | Computed<NonNullable<Row<Name>[Column]>>
}

type Column<Name extends TableName> = keyof Row<Name> & string
/** Columns as they are named, or by names of ours. */
export type Columns<Name extends TableName> = readonly Column<Name>[] | Record<string, Column<Name>>

/** The rows that a read of these columns answers. */
export type Found<Name extends TableName, C> = C extends readonly (infer K)[]
  ? Pick<Row<Name>, K & keyof Row<Name>>
  : C extends Record<string, Column<Name>>
    ? { [Alias in keyof C]: Row<Name>[C[Alias] & keyof Row<Name>] }
    : Row<Name>

export interface Reading<Name extends TableName, C> {
  /** All, unless said. */
  columns?: C
  order?: readonly (Column<Name> | [Column<Name>, 'DESC'])[]
  limit?: number
  /** Each row once. */
  distinct?: boolean
  /** The rows are ours until the transaction ends. */
  lock?: boolean
}

/** A reading as Sequelize is asked for it. */
export function asOptions<Name extends TableName>(
  where: Where<Name>,
  { columns, order, limit, distinct, lock }: Reading<Name, Columns<Name> | undefined>,
) {
  const named = columns === undefined || Array.isArray(columns) ? undefined : Object.entries(columns)
  const listed = columns as string[] | undefined
  const attributes = named ? named.map(([alias, name]) => [name, alias] as [string, string]) : listed
  return {
    where: where as WhereOptions,
    ...(attributes ? { attributes } : {}),
    ...(distinct ? { group: named ? named.map(([, name]) => name) : listed } : {}),
    ...(order
      ? { order: order.map(by => (typeof by === 'string' ? [by, 'ASC'] : by)) as [string, string][] }
      : {}),
    ...(limit === undefined ? {} : { limit }),
    ...(lock ? { lock: true } : {}),
  }
}

/** The change as Sequelize writes it. A value that is not said is a fault: it would be left out unseen. */
export const asValues = (change: object): object =>
  Object.fromEntries(
    Object.entries(change).map(([name, value]: [string, unknown]) => {
      if (value === undefined) throw new Error(`no value for ${name}`)
      return [name, value instanceof Computed ? value.sql : value]
    }),
  )
