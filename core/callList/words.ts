import type { CallRow } from './list'

/** What the words of a row are made of beside its figures. */
export interface RowFacts {
  /** An amount as a person reads it. */
  money: (amount: number) => string
  day: (day: string) => string
  usual: number | null
  payDay: number | null
  calledOn: string | null
  outcome: string | null
  calledDaysAgo: number | null
  remindedDaysAgo: number | null
  level: number
  broken: { amount: string; date: string } | null
  held: string | null
  nextOn: string | null
  missed: number
}

const plural = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`

function ago(days: number): string {
  if (days === 0) return 'today'
  if (days === 1) return 'yesterday'
  return days < 14 ? `${days} days ago` : `${Math.round(days / 7)} weeks ago`
}

function pays({ usual, payDay }: RowFacts): string {
  if (payDay !== null)
    return payDay >= 28 ? 'pays at the end of the month' : `pays about day ${payDay} of the month`
  if (usual === null) return ''
  if (usual <= 0) return 'usually pays in time'
  return `usually ${plural(usual, 'day')} late`
}

/** Why an account is worth a call now, in words: the strongest first. */
export function whyCall(row: CallRow, facts: RowFacts): string {
  const { money } = facts
  const parts: string[] = []
  if (row.followUp && facts.nextOn !== null) parts.push(`to be rung again on ${facts.day(facts.nextOn)}`)
  if (facts.broken)
    parts.push(`broke its promise of ${facts.broken.amount} for ${facts.day(facts.broken.date)}`)
  if (row.late > 0) {
    const than = pays(facts)
    const beyond = row.beyond > 0 ? `${plural(row.beyond, 'day')} beyond the usual, ` : ''
    parts.push(
      `${money(row.late)} will come late by itself: ${beyond}oldest ${plural(row.oldest, 'day')}${than ? ` (${than})` : ''}`,
    )
  }
  if (facts.held) parts.push(`held: ${facts.held.toLowerCase()}`)
  if (facts.calledDaysAgo !== null)
    parts.push(`${facts.outcome?.toLowerCase() ?? 'called'} ${ago(facts.calledDaysAgo)}`)
  else parts.push('not called yet')
  if (facts.missed > 1) parts.push(`${facts.missed} tries without an answer`)
  if (facts.remindedDaysAgo !== null && facts.remindedDaysAgo < 30)
    parts.push(
      facts.level > 0
        ? `reminder level ${facts.level} ${ago(facts.remindedDaysAgo)}`
        : `reminded ${ago(facts.remindedDaysAgo)}`,
    )
  if (row.promised > 0) parts.push(`${money(row.promised)} more is promised`)
  if (row.disputed > 0) parts.push(`${money(row.disputed)} more is disputed`)
  if (row.credit > 0) parts.push(`${money(row.credit)} lies on account`)
  return parts.join('; ')
}
