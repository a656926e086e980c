import { statfsSync } from 'node:fs'

/*
 * Room on the disk of the embedded database. InnoDB refuses a row that does not fit, but ends altogether when
 * a page that it has promised cannot be written; so work is refused while some room is left, and what runs
 * still ends well.
 */

const MB = 1024 * 1024

/** Below this nothing new is begun or gone on with: the rest is for what must still be written. */
export const RESERVE_BYTES = 64 * MB

/** Below this somebody should look. */
export const LOW_BYTES = 300 * MB

/** The disk is full, or about to be; nothing was changed. */
export class NoRoom extends Error {}

/** Bytes that may still be written under a folder. */
export function roomIn(folder: string): number {
  const { bavail, bsize } = statfsSync(folder)
  return bavail * bsize
}

/** Throws NoRoom. A database that is not ours keeps its own disk, and says itself when it is full. */
export function requireRoom(): void {
  const folder = process.env.BILANCIO_EMBEDDED
  if (folder && roomIn(folder) < RESERVE_BYTES) throw new NoRoom('the disk is full')
}
