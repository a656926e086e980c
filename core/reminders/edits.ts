import type { LeftOut, Notice, NoticeItem } from './notice'

/** What a person changed of a proposed notice. It is decided again with these when the run is confirmed. */
export interface Edit {
  /** Why it is left out, whole. */
  leaveOut?: string
  /** Why single items are left out, by id. */
  items?: Readonly<Record<string, string>>
  /** One level lower than proposed, never below the first. */
  oneLower?: boolean
  noFee?: boolean
  noInterest?: boolean
  /** Another address; empty: by post. */
  recipient?: string
}
export type Edits = Readonly<Record<string, Edit>>

export const isEdited = (edit: Edit | undefined): boolean =>
  edit !== undefined && Object.keys(edit).length > 0

/** An item that would rise gets one level less; one that is claimed along keeps its own. */
const lower = (i: NoticeItem): NoticeItem =>
  i.level > i.before ? { ...i, level: Math.max(1, i.level - 1) } : i

/**
 * A notice as a person changed it, before its sums; null when nothing of it is left. An item that is left out
 * keeps the level it had.
 */
export function editNotice(
  notice: Notice,
  edit: Edit | undefined,
): { notice: Notice | null; leftOut: LeftOut[] } {
  if (!edit) return { notice, leftOut: [] }
  const { customer, currency } = notice
  const leave = (item: string | null, open: number, reason: string): LeftOut => ({
    customer,
    item,
    currency,
    open,
    rule: 'chosen',
    reason: `left out by hand: ${reason}`,
  })
  if (edit.leaveOut !== undefined) {
    const open = notice.items.reduce((sum, i) => sum + i.open, 0)
    return { notice: null, leftOut: [leave(null, open, edit.leaveOut)] }
  }
  const why = (id: number) => edit.items?.[String(id)]
  const leftOut = notice.items
    .filter(i => why(i.id) !== undefined)
    .map(i => leave(i.number, i.open, why(i.id)!))
  const kept = notice.items.filter(i => why(i.id) === undefined)
  const rising = kept.filter(i => i.level > i.before)
  if (!rising.length) {
    const rest = kept.map(i => leave(i.number, i.open, 'all that causes the notice is left out'))
    return { notice: null, leftOut: [...leftOut, ...rest] }
  }
  const items = edit.oneLower ? kept.map(lower) : kept
  const changed = [
    leftOut.length ? `without ${leftOut.map(l => l.item).join(', ')}` : '',
    edit.oneLower ? 'one level lower' : '',
    edit.noFee ? 'no fee' : '',
    edit.noInterest ? 'no interest' : '',
    edit.recipient === undefined ? '' : edit.recipient ? `to ${edit.recipient}` : 'by post',
  ].filter(Boolean)
  const level = Math.max(...rising.map(i => i.level))
  return {
    notice: {
      ...notice,
      items,
      changed,
      level: edit.oneLower ? Math.max(1, level - 1) : level,
      recipient: edit.recipient ?? notice.recipient,
    },
    leftOut,
  }
}
