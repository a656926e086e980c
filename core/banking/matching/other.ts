import { plain, referenceKey, wordsOf } from './text'
import type { Covered, LedgerRule, MatchLine, Proposal, Returnable } from './types'

/*
 * What a bank line may be beside a payment of open items: money that was posted before, money that is no
 * customer's, money that comes back.
 */

/**
 * What is posted and awaited from the bank and has the amount of the line. `payers`: the customers whom its
 * bank account or name points at.
 */
export function coveredProposals(
  line: MatchLine,
  awaited: readonly Covered[],
  payers: ReadonlySet<number>,
): Proposal[] {
  const same = awaited.filter(c => c.amount === line.amount)
  if (!same.length) return []
  const text = referenceKey(`${line.text} ${line.reference} ${line.endToEndId}`)
  return same.map((c): Proposal => {
    const named = [c.label, ...c.references].find(
      r => referenceKey(r).length >= 4 && text.includes(referenceKey(r)),
    )
    const payer = c.customerId !== null && payers.has(c.customerId)
    const deposit =
      c.kind === 'slip' &&
      (/CDPT|DCCT|CHCK|CNTR/.test(line.code) || /deposit|lodg|paying|einzahlung|versement/i.test(line.text))
    const confidence = named
      ? 0.995
      : payer || deposit
        ? same.length === 1
          ? 0.985
          : 0.9 / same.length
        : same.length === 1 && !line.iban && !line.name
          ? 0.8
          : 0.35 / same.length
    const speaksFor = named
      ? ` and the text names ${named}`
      : payer
        ? ' and the payer is the same'
        : deposit
          ? ' and the bank calls it a deposit'
          : ''
    const what =
      c.kind === 'slip'
        ? `paying-in slip ${c.label}`
        : c.kind === 'reversal'
          ? `reversal ${c.label}`
          : `receipt ${c.label}`
    return {
      action: { kind: 'covered', targets: [{ kind: c.kind, id: c.id }] },
      confidence,
      reasons: [
        `${what} of ${c.date} has this amount${speaksFor}`,
        ...(same.length > 1 && !named ? [`${same.length} open payments have this amount`] : []),
      ],
    }
  })
}

/** What the house's rules send to a ledger account. */
export function ledgerProposals(line: MatchLine, rules: readonly LedgerRule[]): Proposal[] {
  const words = ` ${wordsOf(`${line.name} ${line.text} ${line.code}`).join(' ')} `
  return rules
    .filter(r => r.moneyIn === line.amount > 0 && (r.iban || r.words))
    .flatMap((r): Proposal[] => {
      const byIban = r.iban !== '' && plain(r.iban) === plain(line.iban)
      const byWords = r.words !== '' && words.includes(` ${wordsOf(r.words).join(' ')} `)
      if (!(r.iban ? byIban && (!r.words || byWords) : byWords)) return []
      return [
        {
          action: { kind: 'ledger', account: r.account },
          confidence: byIban ? 0.985 : 0.97,
          reasons: [
            byIban
              ? `money with this bank account goes to ${r.account}, as before`
              : `lines with “${r.words}” go to ${r.account}`,
          ],
        },
      ]
    })
}

/**
 * What banks call money that comes back, in the languages we ship and their neighbours: English, German,
 * French, Italian, Spanish, Dutch, Norwegian, Danish, Swedish (common practice).
 */
const RETURNED = new RegExp(
  `(?<![a-zà-ÿ])(?:${[
    'return(?:ed)?',
    'unpaid',
    'bounced',
    'dishonou?red',
    'refer to drawer',
    'r[uü]e?ckgabe',
    'r[uü]e?cklastschrift',
    'r[uü]e?ck[uü]e?berweisung',
    'retoure?',
    'impay[eé]e?',
    'rejet[eé]?e?',
    'rejet de ch[eè]que',
    'insoluto',
    'respint[oa]',
    'stornat[oa]',
    'devoluci[oó]n',
    'devuelto',
    'impagado',
    'gestorneerd',
    'teruggeboekt',
    'retur(?:nert)?',
    'avvist',
    'tilbagef[oø]rt',
    'returnerad',
  ].join('|')})(?![a-zà-ÿ])`,
  'i',
)

/** Receipts that the bank may be sending back with the line. */
export function returnProposals(line: MatchLine, returnable: readonly Returnable[]): Proposal[] {
  const text = referenceKey(`${line.text} ${line.reference} ${line.endToEndId}`)
  const told = Boolean(line.returnReason) || RETURNED.test(line.text)
  return returnable
    .filter(r => r.amount === -line.amount)
    .map(r => {
      const named = [r.number, ...r.references].find(
        x => referenceKey(x).length >= 4 && text.includes(referenceKey(x)),
      )
      return {
        action: {
          kind: 'return' as const,
          itemId: r.itemId,
          reason: line.returnReason
            ? `Returned by the bank, reason ${line.returnReason}`
            : 'Returned unpaid by the bank',
        },
        confidence: named && told ? 0.94 : named ? 0.85 : told ? 0.7 : 0.2,
        reasons: [
          `${r.number} of ${r.date} has this ` +
            `amount${named ? ` and the text names ${named}` : ''}${told ? '; the bank calls it a return' : ''}`,
        ],
      }
    })
    .filter(p => p.confidence > 0.3)
}
