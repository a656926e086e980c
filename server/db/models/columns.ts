import { DataTypes, type ModelAttributeColumnOptions, type ModelAttributes } from 'sequelize'

/** A column with its meaning and unit; `T` is what it holds in TypeScript. */
export interface Column<T> {
  attribute: ModelAttributeColumnOptions
  meaning: string
  /** For types only. */
  holds?: T
}

const column = <T>(type: ModelAttributeColumnOptions['type'], meaning: string): Column<T> => ({
  attribute: { type, allowNull: false, comment: meaning },
  meaning,
})

export const text = (length: number, meaning: string) => column<string>(DataTypes.STRING(length), meaning)
/** One of a few words that core knows; kept as text. */
export const wordOf = <V extends string>(length: number, meaning: string) =>
  column<V>(DataTypes.STRING(length), meaning)
export const longText = (meaning: string) => column<string>(DataTypes.TEXT, meaning)
export const bytes = (meaning: string) => column<Buffer>(DataTypes.BLOB, meaning)
/** A whole number: a count, an id, minor units of money, or 0 and 1 for no and yes. */
export const whole = (meaning: string) => column<number>(DataTypes.BIGINT, meaning)
/** Exact, so it comes as text. */
export const decimal = (meaning: string) => column<string | number>(DataTypes.DECIMAL, meaning)
/** A calendar day, YYYY-MM-DD. */
export const day = (meaning: string) => column<string>(DataTypes.DATEONLY, meaning)
/** A point in time, UTC. */
export const instant = (meaning: string) => column<string>(DataTypes.DATE(3), meaning)
export const oneOf = <const V extends string>(values: readonly V[], meaning: string) =>
  column<V>(DataTypes.ENUM(...values), meaning)

/** The id that the database gives. */
export const key = (meaning: string): Column<number> => ({
  attribute: { type: DataTypes.BIGINT, primaryKey: true, autoIncrement: true, comment: meaning },
  meaning,
})

export function optional<T>(c: Column<T>): Column<T | null> {
  return { attribute: { ...c.attribute, allowNull: true }, meaning: c.meaning }
}

/** Kept by the database itself, from the other columns: never written. */
export function kept<T>(c: Column<T>): Column<T | null> {
  return { attribute: { ...c.attribute, allowNull: true }, meaning: c.meaning }
}

// eslint-disable-next-line @typescript-eslint/no-explicit-any
type Columns = Record<string, Column<any>>

export interface Table<C extends Columns = Columns> {
  name: string
  primaryKey: readonly string[]
  columns: C
}

export type RowOf<T extends Table> = {
  [K in keyof T['columns']]: T['columns'][K] extends Column<infer V> ? V : never
}

export function table<C extends Columns>(
  name: string,
  primaryKey: readonly (keyof C & string)[],
  columns: C,
): Table<C> {
  return { name, primaryKey, columns }
}

/** The columns as a Sequelize model has them. */
export function attributesOf(t: Table): ModelAttributes {
  return Object.fromEntries(
    Object.entries(t.columns).map(([name, { attribute }]) => [
      name,
      { ...attribute, ...(t.primaryKey.includes(name) ? { primaryKey: true } : {}) },
    ]),
  )
}
