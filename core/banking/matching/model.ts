import { STRAIGHT, WEIGHTS } from './weights'

/**
 * How sure a proposal is: a conditional (multinomial) logit over all that a line may be. Each proposal has a
 * score, the sum of its evidence times a weight; "none of these" has one too; the confidence of a proposal is
 * exp(its score) as a share of all of them (McFadden, Conditional logit analysis of qualitative choice
 * behavior, 1974; formula from memory). So two proposals of equal evidence have half each, and a proposal
 * gives way where another explains the line better. The weights are fitted to simulated worlds by
 * `npm run calibrate`, and `npm run bench` prints how often what it calls 95 % is right.
 */
export const FEATURES = {
  // Who pays
  ibanOwn: 'the bank account is this customer’s alone',
  ibanShared: 'the bank account stands for several customers, this one among them',
  ibanLearnt: 'the bank account paid for it before',
  ibanElsewhere: 'the bank account is another customer’s',
  ibanDiffers: 'it has another bank account',
  nameSame: 'the payer is called like it',
  nameLike: 'likeness of the names, 0 to 1, where not the same',
  nameRivals: 'logarithm of how many are called as alike',
  nameUnlike: 'the payer is called otherwise',
  nameLearnt: 'a payer of this name paid for it before',
  ultimate: 'paid on its behalf, by name, 0 to 1',
  nameInText: 'the text names it, 0 to 1',
  customerNumber: 'the text names its customer number',
  group: 'only of the same group as somebody who is likely',
  // What is paid
  exactNamed: 'all that is named, nothing else, and the amount is met',
  exactMentioned: 'so too, but some are named by the end of a number, a slip or an order only',
  namedShare: 'share of what is taken that the text names by its number',
  namedMore: 'logarithm of how many documents are named',
  namedElsewhere: 'the text names documents of others, and this takes none of them',
  namedPassed: 'documents that the text names and that are not taken, 3 at most',
  othersSlip: 'what is named is, but for one slip, an item of this amount of somebody who is known to pay',
  tailShare: 'share of what is taken that the text names by the end of its number',
  slipShare: 'share that the text names but for one slip of the finger',
  orderShare: 'share that the text names by its order',
  dateShare: 'share that the text names by its date',
  unknownNumber: 'the text holds a number of the form of ours that is nobody’s',
  unexplained: 'other numbers in the text that this does not explain, 2 at most',
  dateElsewhere: 'the text tells days, and nothing taken is of them',
  kindOne: 'one item',
  kindWhole: 'all that is open, or all that is due',
  kindRun: 'everything up to one, or a run without gaps',
  kindLess: 'a run less some',
  kindLessFew: 'a run less two to four',
  kindTwo: 'any two items',
  kindThree: 'any three items',
  kindMany: 'any four or more',
  unlikely: 'how unlikely an accident is: minus its decimal logarithm, 6 at most',
  accidental: 'a set of this size meets nearly any amount',
  discount: 'less a discount that is still earned',
  cents: 'a small difference',
  centsBeside: 'a small difference beside a discount',
  centsHabit: 'the payer kept back this amount before',
  creditTaken: 'credits taken off that the text does not name',
  creditNamed: 'credits taken off that the text names',
  early: 'share that falls due more than 15 days later, without a discount',
  oldest: 'nothing older stays open',
  olderEqual: 'an older item of the same amount stays open, and nothing names this one',
  oldestHabit: 'how often this payer paid the oldest first, −1 to 1, if it is so here',
  several: 'several customers, whose documents are named, together',
  severalGroup: 'and they are one group',
  remitted: 'as the payer’s own list of documents and amounts says',
  // No set meets the amount
  partNamed: 'a part of what is named',
  partMost: 'and most of it',
  partLittle: 'and little of it',
  partOrDiscount: 'and less its discount it would be too much',
  partLate: 'what is missing is a discount that is no longer earned',
  overNamed: 'more than what is named',
  overLittle: 'by a small difference',
  paidTwice: 'a document that is named and settled has this amount',
  paidTwiceHinted: 'a settled document of this amount is named by the end of its number, a slip or its day',
  paidTwiceAmount: 'a settled document has this amount, and nothing open has',
  settledNamed: 'a document is named that is settled, of another amount',
  onAccount: 'no document, on account',
  onAccountSaid: 'the text says on account',
  nothingOpen: 'nothing is open on the account',
  amountAlone: 'only the amount speaks for it',
  // Posted before, not a customer's, sent back
  covered: 'money that is posted and awaited has this amount',
  coveredNamed: 'and the text names it',
  coveredPayer: 'and the payer is the same',
  coveredDeposit: 'a paying-in slip, and the bank calls it a deposit',
  coveredUnlike: 'somebody else is told to pay',
  coveredSilent: 'nothing tells who paid',
  coveredRivals: 'logarithm of how many have this amount',
  ledgerIban: 'money with this bank account goes to this ledger account by rule',
  ledgerWords: 'lines with these words do',
  returned: 'a receipt of this amount may be sent back',
  returnedNamed: 'and the text names it',
  returnedTold: 'and the bank calls it a return',
  returnedParty: 'and it goes to the bank account or name that it came from',
  returnedRivals: 'logarithm of how many receipts have this amount',
  // The line as a whole; counts for "none of these"
  none: 'none of these',
  noneStranger: 'nobody is known by bank account or name',
  noneUnknown: 'a number of the form of ours is nobody’s',
  noneOut: 'money goes out',
} as const

export type Feature = keyof typeof FEATURES
export type Evidence = Partial<Record<Feature, number>>

/** The weighed sum of evidence, in logarithms of odds. */
export function scoreOf(evidence: Evidence, weights: Readonly<Record<Feature, number>> = WEIGHTS): number {
  let sum = 0
  for (const [feature, value] of Object.entries(evidence) as [Feature, number][])
    sum += weights[feature] * value
  return sum
}

/** Shares of each proposal, in their order; what is left to one is the share of "none of these". */
export function sharesOf(scores: readonly number[], none: number): number[] {
  const most = Math.max(none, ...scores)
  const weights = scores.map(s => Math.exp(s - most))
  const total = weights.reduce((a, b) => a + b, Math.exp(none - most))
  return weights.map(w => w / total)
}

/**
 * How often a first proposal of this share is right: between what was counted in the simulated houses, by
 * straight lines in the odds of an error. Rises with the share.
 */
export function straightened(share: number, straight = STRAIGHT): number {
  const knots = [[0, 0] as const, ...straight, [1, Math.max(straight.at(-1)?.[1] ?? 1, share)] as const]
  const at = knots.findIndex(([said]) => said >= share)
  if (at <= 0) return share
  const [[x0, y0], [x1, y1]] = [knots[at - 1]!, knots[at]!]
  return x1 === x0 ? y1 : y0 + ((share - x0) / (x1 - x0)) * (y1 - y0)
}

/** Adds up evidence of two sources. */
export const together = (...parts: readonly Evidence[]): Evidence => {
  const all: Evidence = {}
  for (const part of parts)
    for (const [feature, value] of Object.entries(part) as [Feature, number][])
      all[feature] = (all[feature] ?? 0) + value
  return all
}

/**
 * From which confidence a proposal is taken without a look, when one wrong posting costs as much as so many
 * looks: a look is saved where (1 − p) × cost < 1.
 */
export const sureEnough = (wrongCosts: number): number => 1 - 1 / wrongCosts
