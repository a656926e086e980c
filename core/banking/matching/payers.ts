import type { Directory } from './directory'
import type { Evidence } from './model'
import { scoreOf, together } from './model'
import { wordsOf } from './names'
import { isCreditorReference, plain, referenceKey } from './numbers'
import type { Closed, MatchCustomer, MatchItem, MatchLine } from './types'

/** Who may have paid, and how we know. */
export interface Candidate {
  customer: MatchCustomer
  /** What speaks for this payer, and against. */
  who: Evidence
  why: string[]
  /** Items of this customer that the text names by number or order. */
  referred: Set<number>
  /**
   * Whether a bank account, a name or a number of the customer points at it, not its documents or group
   * alone.
   */
  known: boolean
}

/** What is known of payers and documents, looked up for a line. */
export interface Known {
  directory: Directory
  learntByIban: ReadonlyMap<string, readonly number[]>
  learntByName: ReadonlyMap<string, readonly number[]>
}

/** What the text of a line names, whoever pays. */
export interface Named {
  items: readonly MatchItem[]
  byOrder: readonly MatchItem[]
  closed: readonly Closed[]
}

const MOST_CANDIDATES = 8
/** A name so alike is the same name. */
const SAME = 0.95
const ALIKE = 0.5
/** Payers known by bank account or the same name bring their group with them. */
const BRINGS_GROUP = 1

export const textOf = (line: MatchLine): string => `${line.reference} ${line.text} ${line.endToEndId}`

/** Customers whose names stand in a text, among whatever else does. */
const namesIn = (known: Known, text: string) =>
  known.directory.names.find(text, 4).filter(n => n.likeness > 0.6)

/** Everything that points at a customer: bank account, names, numbers of documents, orders and customers. */
export function candidatesOf(line: MatchLine, named: Named, known: Known): Candidate[] {
  const { directory } = known
  const found = new Map<number, Candidate>()
  const at = (id: number): Candidate | undefined => {
    const customer = directory.byId.get(id)
    if (!customer) return undefined
    const own = found.get(id) ?? { customer, who: {}, why: [], referred: new Set<number>(), known: false }
    found.set(id, own)
    return own
  }
  const add = (id: number, who: Evidence, why: string, knows = true) => {
    const c = at(id)
    if (!c) return
    c.who = together(c.who, who)
    c.known ||= knows
    if (why) c.why.push(why)
  }
  const nameOf = (id: number) => directory.byId.get(id)?.name ?? ''

  const owners = line.iban ? directory.withIban(line.iban) : []
  const learnt = line.iban ? (known.learntByIban.get(plain(line.iban)) ?? []) : []
  const shared = new Set([...owners, ...learnt]).size > 1
  for (const id of owners)
    add(id, shared ? { ibanShared: 1 } : { ibanOwn: 1 }, `the bank account is ${nameOf(id)}’s`)
  for (const id of learnt)
    if (!owners.includes(id))
      add(
        id,
        shared ? { ibanShared: 1 } : { ibanLearnt: 1 },
        `this bank account paid for ${nameOf(id)} before`,
      )

  if (line.name)
    for (const id of known.learntByName.get(wordsOf(line.name).join(' ')) ?? [])
      add(id, { nameLearnt: 1 }, `“${line.name}” paid for it before`)
  const likes = line.name ? directory.names.find(line.name, 10) : []
  const likeOf = new Map(likes.map(n => [n.customerId, n.likeness]))
  const top = likes[0]?.likeness ?? 0
  for (const n of likes)
    if (n.likeness >= ALIKE && n.likeness >= top - 0.25)
      at(n.customerId)!.why.push(
        n.likeness > SAME
          ? `the payer is called ${line.name}`
          : `“${line.name}” is like ${nameOf(n.customerId)}`,
      )

  for (const i of named.items) at(i.customerId)?.referred.add(i.id)
  for (const i of named.byOrder) at(i.customerId)?.referred.add(i.id)
  for (const c of [...found.values()]) {
    const numbers = named.items.filter(i => i.customerId === c.customer.id).map(i => i.number)
    const orders = named.byOrder.filter(i => i.customerId === c.customer.id).map(i => i.order)
    if (numbers.length)
      c.why.push(
        `the text names ${numbers.slice(0, 4).join(', ')}` +
          `${numbers.length > 4 ? ` and ${numbers.length - 4} more` : ''}`,
      )
    else if (orders.length)
      c.why.push(`the text names the order ${[...new Set(orders)].slice(0, 3).join(', ')}`)
  }
  for (const d of named.closed) at(d.customerId)

  for (const n of line.ultimate ? directory.names.find(line.ultimate, 3) : [])
    if (n.likeness > 0.7) add(n.customerId, { ultimate: n.likeness }, `paid on behalf of “${line.ultimate}”`)
  const words = textOf(line)
  for (const n of namesIn(known, words))
    add(n.customerId, { nameInText: n.likeness }, `the text names ${nameOf(n.customerId)}`)
  const tokens: string[] = words.toUpperCase().match(/[A-Z0-9]+(?:[-/.][A-Z0-9]+)*/g) ?? []
  // Our letters ask for several documents under one reference, that of the customer.
  const reference = line.reference.replace(/\s/g, '').toUpperCase()
  if (isCreditorReference(reference)) tokens.push(reference.slice(4))
  for (const token of new Set(tokens.map(referenceKey)))
    for (const id of token.length >= 3 ? directory.withNumber(token) : [])
      add(id, { customerNumber: 1 }, `the text names customer ${directory.byId.get(id)!.number}`)

  const rivals = (likeness: number) => likes.filter(l => l.likeness >= likeness - 0.05).length
  for (const c of found.values()) {
    const { id, iban } = c.customer
    const like = likeOf.get(id) ?? 0
    if (like >= ALIKE) {
      c.known ||= like > SAME
      c.who = together(c.who, like > SAME ? { nameSame: 1 } : { nameLike: like }, {
        nameRivals: Math.log(rivals(like)),
      })
    } else if (line.name) c.who = together(c.who, { nameUnlike: 1 })
    if (line.iban && !owners.includes(id) && !learnt.includes(id)) {
      if (owners.length) c.who = together(c.who, { ibanElsewhere: 1 })
      else if (iban) c.who = together(c.who, { ibanDiffers: 1 })
    }
  }
  // The payer may stand for members of its group, or the head for it.
  for (const c of [...found.values()]) {
    if (!c.known || scoreOf(c.who) < BRINGS_GROUP) continue
    for (const id of directory.groupOf(c.customer.id))
      if (!found.has(id)) add(id, { group: 1 }, `${c.customer.name} is of the same group`, false)
  }
  return [...found.values()]
    .sort((a, b) => rank(b) - rank(a) || a.customer.id - b.customer.id)
    .slice(0, MOST_CANDIDATES)
}

/** What is named speaks for a candidate before its set is known. */
const rank = (c: Candidate): number => scoreOf(c.who) + 3 * Math.log(1 + c.referred.size)
