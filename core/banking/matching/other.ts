import { toMajor } from '../../money'
import { MOST_KEPT } from './kept'
import { wordsOf } from './names'
import { plain, referenceKey } from './numbers'
import { textOf } from './payers'
import type { Hypothesis } from './setting'
import type { Covered, CoveredTarget, LedgerRule, MatchLine, Returnable } from './types'

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
): Hypothesis[] {
  const same = awaited.filter(c => c.amount === line.amount)
  if (!same.length) return []
  const text = referenceKey(textOf(line))
  return same.map((c): Hypothesis => {
    const named = [c.label, ...c.references].find(
      r => referenceKey(r).length >= 4 && text.includes(referenceKey(r)),
    )
    const payer = c.customerId !== null && payers.has(c.customerId)
    const deposit =
      c.kind === 'slip' &&
      (/CDPT|DCCT|CHCK|CNTR/.test(line.code) || /deposit|lodg|paying|einzahlung|versement/i.test(line.text))
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
        : c.kind === 'means'
          ? `receipt ${c.label}`
          : `${c.kind} ${c.label}`
    return {
      action: { kind: 'covered', targets: targetsOf(c) },
      evidence: {
        covered: 1,
        ...(named ? { coveredNamed: 1 } : {}),
        ...(payer ? { coveredPayer: 1 } : {}),
        ...(deposit ? { coveredDeposit: 1 } : {}),
        ...(!payer && (line.iban || line.name) ? { coveredUnlike: 1 } : {}),
        ...(!line.iban && !line.name ? { coveredSilent: 1 } : {}),
        coveredRivals: Math.log(same.length),
      },
      reasons: [
        `${what} of ${c.date} has this amount${speaksFor}`,
        ...(same.length > 1 && !named ? [`${same.length} open payments have this amount`] : []),
      ],
    }
  })
}

const targetsOf = ({ kind, id, targets }: Covered): CoveredTarget[] =>
  kind === 'file' ? [...(targets ?? [])] : [{ kind, id }]

/** What the house's rules send to a ledger account. */
export function ledgerProposals(line: MatchLine, rules: readonly LedgerRule[]): Hypothesis[] {
  const words = ` ${wordsOf(`${line.name} ${line.text} ${line.code}`).join(' ')} `
  return rules
    .filter(r => r.moneyIn === line.amount > 0 && (r.iban || r.words))
    .flatMap((r): Hypothesis[] => {
      const byIban = r.iban !== '' && plain(r.iban) === plain(line.iban)
      const byWords = r.words !== '' && words.includes(` ${wordsOf(r.words).join(' ')} `)
      if (!(r.iban ? byIban && (!r.words || byWords) : byWords)) return []
      return [
        {
          action: { kind: 'ledger', account: r.account },
          evidence: byIban ? { ledgerIban: 1 } : { ledgerWords: 1 },
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

/**
 * Receipts that the bank may be sending back with the line, found by reference, bank account, name and
 * amount.
 * */
export function returnProposals(
  line: MatchLine,
  returnable: readonly Returnable[],
  payers: ReadonlySet<number>,
): Hypothesis[] {
  const text = referenceKey(textOf(line))
  const told = Boolean(line.returnReason) || RETURNED.test(line.text)
  const nameIn = (r: Returnable) =>
    [r.number, ...r.references].find(x => referenceKey(x).length >= 4 && text.includes(referenceKey(x)))
  const kept = (r: Returnable) => -r.amount - line.amount
  const isKeeping = (r: Returnable) => kept(r) > 0 && kept(r) <= MOST_KEPT && told && nameIn(r) !== undefined
  const same = returnable.filter(r => kept(r) === 0 || isKeeping(r))
  return same.map((r): Hypothesis => {
    const named = nameIn(r)
    const charge = kept(r)
    const party =
      (r.iban !== '' && plain(r.iban) === plain(line.iban)) ||
      (r.name !== '' && wordsOf(r.name).join(' ') === wordsOf(line.name).join(' ')) ||
      payers.has(r.customerId)
    return {
      action: {
        kind: 'return' as const,
        itemId: r.itemId,
        reason: line.returnReason
          ? `Returned by the bank, reason ${line.returnReason}`
          : 'Returned unpaid by the bank',
        ...(r.fee ? { fee: r.fee } : {}),
        ...(charge ? { charge } : {}),
      },
      evidence: {
        returned: 1,
        ...(named ? { returnedNamed: 1 } : {}),
        ...(told ? { returnedTold: 1 } : {}),
        ...(party ? { returnedParty: 1 } : {}),
        returnedRivals: Math.log(same.length),
      },
      reasons: [
        `${r.number} of ${r.date} has this amount` +
          `${charge ? ` but for ${toMajor(charge, line.currency)}, which the bank keeps for itself` : ''}` +
          `${named ? ` and the text names ${named}` : ''}` +
          `${party ? ', and it goes back to where it came from' : ''}` +
          `${told ? '; the bank calls it a return' : ''}`,
      ],
    }
  })
}
