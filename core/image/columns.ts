/*
 * Columns of numbers in shared memory: one array a column, so that a million rows are a few dozen megabytes
 * and a pass over one column reads nothing else. Rows are only ever added, as in the tables they stand for,
 * so another thread may read the rows it knows of while further ones are written behind them.
 */

type Typed = Float64Array | Int32Array | Uint32Array | Uint8Array

/** What a column holds: money exact to 2^53, days and ids of 32 bits, small codes. */
export type Width = 'money' | 'day' | 'id' | 'code'

export interface TypedBy {
  money: Float64Array
  day: Int32Array
  id: Uint32Array
  code: Uint8Array
}

const BYTES: Readonly<Record<Width, number>> = { money: 8, day: 4, id: 4, code: 1 }

function typed(width: Width, memory: SharedArrayBuffer): Typed {
  if (width === 'money') return new Float64Array(memory)
  if (width === 'day') return new Int32Array(memory)
  if (width === 'id') return new Uint32Array(memory)
  return new Uint8Array(memory)
}

export type Shape = Readonly<Record<string, Width>>
export type ColumnsOf<S extends Shape> = { readonly [K in keyof S]: TypedBy[S[K]] }

/** Room that is added when a table is full: an eighth more, and some hundreds for small ones. */
const moreThan = (rows: number): number => Math.ceil(rows * 1.125) + 512

/** A table of columns that grows at its end. */
export class Table<S extends Shape> {
  /** Rows that are whole. */
  count = 0
  column: ColumnsOf<S>
  private room = 0
  private memory: Record<string, SharedArrayBuffer> = {}

  constructor(
    private readonly shape: S,
    rows = 0,
  ) {
    this.column = this.grown(rows)
  }

  /** Makes room for so many rows in all. */
  reserve(rows: number): void {
    if (rows > this.room) this.column = this.grown(Math.max(rows, moreThan(this.room)))
  }

  /** Bytes that its columns take, room included. */
  get bytes(): number {
    return this.room * Object.values(this.shape).reduce((sum, width) => sum + BYTES[width], 0)
  }

  private grown(rows: number): ColumnsOf<S> {
    const before = this.memory
    this.memory = {}
    for (const [name, width] of Object.entries(this.shape)) {
      const memory = new SharedArrayBuffer(rows * BYTES[width])
      const old = before[name]
      if (old) new Uint8Array(memory).set(new Uint8Array(old))
      this.memory[name] = memory
    }
    this.room = rows
    return this.typedColumns()
  }

  private typedColumns(): ColumnsOf<S> {
    return Object.fromEntries(
      Object.entries(this.shape).map(([name, width]) => [name, typed(width, this.memory[name]!)]),
    ) as unknown as ColumnsOf<S>
  }
}
