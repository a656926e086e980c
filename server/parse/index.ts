import { resolve } from 'node:path'
import { Piscina } from 'piscina'
import { log } from '../log'
import { ProblemError } from '../services/common/problems'
import type { Parsed, ParseKind, Parses, Task } from './parse'

/*
 * Every file that comes from outside is read in a thread of its own, with limits on its size, its depth (see
 * formats), the time it takes and the memory. One wrong file then costs its sender an answer, and nobody
 * anything.
 */

const MB = 1024 * 1024

interface Limit {
  bytes: number
  seconds: number
}

const LIMITS: Record<ParseKind, Limit> = {
  table: { bytes: 48 * MB, seconds: 60 },
  statement: { bytes: 48 * MB, seconds: 60 },
  columns: { bytes: 48 * MB, seconds: 20 },
  advice: { bytes: 8 * MB, seconds: 20 },
  look: { bytes: 48 * MB, seconds: 60 },
  convert: { bytes: 48 * MB, seconds: 60 },
}

/** Half a million rows of twelve columns are read within this; what takes more is taken for an attack. */
const MEMORY_MB = 1200

/** Threads that read, two at a time; further files wait in line. */
function openThreads(memoryMb: number): Piscina {
  return new Piscina({
    filename: resolve('server/parse/start.mjs'),
    minThreads: 0,
    maxThreads: 2,
    idleTimeout: 60_000,
    maxQueue: 64,
    resourceLimits: { maxOldGenerationSizeMb: memoryMb, maxYoungGenerationSizeMb: 64, stackSizeMb: 4 },
  })
}

let shared: Piscina | undefined

/** For a process that ends. */
export async function closeParsing(): Promise<void> {
  await shared?.destroy()
  shared = undefined
}

const unreadable = (title: string, why: string, satisfy: string) =>
  new ProblemError(422, title, `${why}: ${satisfy}`, [{ path: 'file', message: why, satisfy }])

/** Why a thread gave no answer. */
function ofThread(title: string, error: unknown, { seconds }: Limit): ProblemError {
  const { name, code } = error as { name?: string; code?: string }
  if (name === 'AbortError')
    return unreadable(title, `it was not read within ${seconds} seconds`, 'split it into smaller ones')
  if (code === 'ERR_WORKER_OUT_OF_MEMORY')
    return unreadable(title, 'it takes more memory to read than a file of its kind should', 'split it')
  if (/queue/i.test((error as Error).message))
    return new ProblemError(503, 'Busy', 'many files are being read: try again in a moment', [], 5)
  throw error
}

/**
 * Reads a file. `title`: of the problem, when it cannot be read. Throws ProblemError: what is wrong, where,
 * and what would be right.
 */
export function parseFile<K extends ParseKind>(
  kind: K,
  bytes: Uint8Array,
  ask: Parses[K]['ask'],
  title: string,
): Promise<Parses[K]['answer']> {
  shared ??= openThreads(MEMORY_MB)
  return parseIn(shared, LIMITS[kind], { kind, bytes, ask } as Task, title) as Promise<Parses[K]['answer']>
}

/** The same with limits of one's own, in threads that end with it. */
export async function parseWithin(
  { memoryMb, ...limit }: Limit & { memoryMb: number },
  task: Task,
  title: string,
): Promise<unknown> {
  const threads = openThreads(memoryMb)
  try {
    return await parseIn(threads, limit, task, title)
  } finally {
    await threads.destroy()
  }
}

async function parseIn(threads: Piscina, limit: Limit, task: Task, title: string): Promise<unknown> {
  if (task.bytes.byteLength > limit.bytes)
    throw new ProblemError(413, 'Too large', `at most ${limit.bytes / MB} MB: split the file`)
  const signal = AbortSignal.timeout(limit.seconds * 1000)
  let parsed: Parsed
  try {
    parsed = (await threads.run(task, { signal })) as Parsed
  } catch (error) {
    throw ofThread(title, error, limit)
  }
  if (parsed.ok) return parsed.answer
  if ('fault' in parsed) {
    const { message, satisfy, path, line, all } = parsed.fault
    const more = all && all.length > 1 ? `, and ${all.length - 1} more lines` : ''
    const each = all?.map(f => ({ path: `line ${f.line}`, ...f, satisfy }))
    throw new ProblemError(
      422,
      title,
      `${path}: ${message}${more}: ${satisfy}`,
      each ?? [{ path, line, message, satisfy }],
    )
  }
  log.warn({ kind: task.kind, at: parsed.stumble }, 'a file could not be read')
  throw unreadable(
    title,
    'the file cannot be read: it may be damaged, or of a kind that is not known yet',
    'fetch it again from where it came',
  )
}
