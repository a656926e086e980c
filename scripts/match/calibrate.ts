import { writeFileSync } from 'node:fs'
import { Matcher } from '../../core/banking/matching'
import { FEATURES, type Evidence, type Feature } from '../../core/banking/matching/model'
import { unrulyWorld } from '../../simulators/unruly/lines'
import { isRight } from './score'

/*
 * Fits the weights of the matching to simulated worlds: the conditional logit of core/banking/matching/model,
 * by Adam (Kingma and Ba, 2015; constants of the paper, from memory) over the whole set, with a small penalty
 * on large weights. Seeds "fit-…" are for this alone; measures and tests use others.
 *
 * npm run calibrate [-- worlds lines]
 */

/**
 * What somebody of the trade would think, in logarithms of odds: where the worlds say little, the fit stays
 * near these. Our judgement.
 */
const JUDGED: Record<Feature, number> = {
  ibanOwn: 4,
  ibanShared: 1.5,
  ibanLearnt: 3,
  ibanElsewhere: -3,
  ibanDiffers: -0.5,
  nameSame: 3.5,
  nameLike: 2,
  nameRivals: -1,
  nameUnlike: -2,
  nameLearnt: 3,
  ultimate: 3,
  nameInText: 2.5,
  customerNumber: 2,
  group: -1.5,
  exactNamed: 5,
  exactMentioned: 3.5,
  namedShare: 2,
  namedMore: 0.3,
  namedElsewhere: -1.5,
  namedPassed: -1,
  othersSlip: -6,
  tailShare: 2,
  slipShare: 2,
  orderShare: 2,
  dateShare: 2,
  unknownNumber: -1.5,
  unexplained: -0.5,
  dateElsewhere: -1,
  kindOne: 0,
  kindWhole: 0,
  kindRun: -1,
  kindLess: -1,
  kindLessFew: -3,
  kindTwo: -1.5,
  kindThree: -2.5,
  kindMany: -4,
  unlikely: 0.5,
  accidental: -3,
  discount: 0,
  cents: -1.5,
  centsBeside: -1,
  centsHabit: 1.5,
  creditTaken: -1,
  creditNamed: 2,
  early: -1.5,
  oldest: 2,
  olderEqual: -4,
  oldestHabit: 1,
  several: 1,
  severalGroup: 1,
  remitted: 4,
  partNamed: -3,
  partMost: 0.5,
  partLittle: -2,
  partOrDiscount: -1,
  partLate: 0.5,
  overNamed: -4,
  overLittle: 2,
  paidTwice: 4,
  paidTwiceHinted: 4,
  paidTwiceAmount: 2,
  settledNamed: -1,
  onAccount: -6,
  onAccountSaid: 5,
  nothingOpen: 2,
  amountAlone: -4,
  covered: 0,
  coveredNamed: 4,
  coveredPayer: 3.5,
  coveredDeposit: 3,
  coveredUnlike: -4,
  coveredSilent: 1,
  coveredRivals: -1,
  ledgerIban: 5,
  ledgerWords: 5,
  returned: -1,
  returnedNamed: 4,
  returnedTold: 2,
  returnedParty: 2,
  returnedRivals: -1,
  none: -1,
  noneStranger: 1,
  noneUnknown: 1,
  noneOut: 0,
}

/** A set that could hardly meet the amount by accident never speaks less for itself than one that could. */
const LEAST: Partial<Record<Feature, number>> = { unlikely: 0.2 }

const features = Object.keys(FEATURES) as Feature[]
const place = new Map(features.map((f, n) => [f, n]))

interface Example {
  /** Evidence of each hypothesis, and last that of none of them: pairs of place and value. */
  rows: [number, number][][]
  right: number
}

const rowOf = (evidence: Evidence): [number, number][] =>
  (Object.entries(evidence) as [Feature, number][])
    .filter(([, value]) => value !== 0)
    .map(([feature, value]) => [place.get(feature)!, value])

function examplesOf(seed: string, lines: number): Example[] {
  const { world, lines: own } = unrulyWorld(seed, lines)
  const matcher = new Matcher(world)
  return own.map(l => {
    const { hypotheses, none } = matcher.weigh(l.line)
    const right = hypotheses.findIndex(h => isRight(h.action, l))
    if (l.truth) matcher.use({ action: l.truth, confidence: 1, reasons: [] })
    return {
      rows: [...hypotheses.map(h => rowOf(h.evidence)), rowOf(none)],
      right: right < 0 ? hypotheses.length : right,
    }
  })
}

const PENALTY = 1e-4
const RATE = 0.05
const [KEEP_SLOPE, KEEP_SIZE, TINY] = [0.9, 0.999, 1e-8]

function fit(examples: readonly Example[], rounds: number): { weights: number[]; loss: number } {
  const weights = features.map(f => JUDGED[f])
  const slope = features.map(() => 0)
  const size = features.map(() => 0)
  let loss = 0
  for (let round = 1; round <= rounds; round++) {
    const gradient = weights.map((w, n) => PENALTY * (w - JUDGED[features[n]!]))
    loss = 0
    for (const { rows, right } of examples) {
      const shares = sharesIn({ rows, right }, weights)
      loss -= Math.log(Math.max(1e-12, shares[right]!)) / examples.length
      rows.forEach((row, k) => {
        const by = (shares[k]! - (k === right ? 1 : 0)) / examples.length
        for (const [n, value] of row) gradient[n]! += by * value
      })
    }
    const rate = RATE * Math.min(1, (2 * (rounds - round + 1)) / rounds)
    weights.forEach((_, n) => {
      slope[n] = KEEP_SLOPE * slope[n]! + (1 - KEEP_SLOPE) * gradient[n]!
      size[n] = KEEP_SIZE * size[n]! + (1 - KEEP_SIZE) * gradient[n]! ** 2
      const step =
        slope[n]! / (1 - KEEP_SLOPE ** round) / (Math.sqrt(size[n]! / (1 - KEEP_SIZE ** round)) + TINY)
      weights[n] = Math.max(LEAST[features[n]!] ?? -Infinity, weights[n]! - rate * step)
    })
  }
  return { weights, loss }
}

const sharesIn = (e: Example, weights: readonly number[]): number[] => {
  const scores = e.rows.map(r => r.reduce((sum, [n, value]) => sum + weights[n]! * value, 0))
  const most = Math.max(...scores)
  const shares = scores.map(s => Math.exp(s - most))
  const total = shares.reduce((a, b) => a + b, 0)
  return shares.map(s => s / total)
}

const KNOTS = 14

/**
 * How often the first proposal is right, by its share: isotonic regression by pooling adjacent violators
 * (Barlow et al., Statistical inference under order restrictions, 1972; from memory) over groups of lines.
 */
function straighten(examples: readonly Example[], weights: readonly number[]): [number, number][] {
  const firsts = examples
    .flatMap(e => {
      const shares = sharesIn(e, weights).slice(0, -1)
      const most = Math.max(0, ...shares)
      const ties = shares.filter(s => most - s < 0.01).length
      return most > 0.05 && ties === 1 ? [{ said: most, right: shares[e.right] === most ? 1 : 0 }] : []
    })
    .sort((a, b) => a.said - b.said)
  // Groups by the odds of an error, each half the errors that the last one has.
  const bounds = Array.from({ length: KNOTS }, (_, n) => 1 - 0.9 * 0.6 ** n)
  const groups = bounds
    .map((from, n) => firsts.filter(f => f.said >= from && f.said < (bounds[n + 1] ?? 2)))
    .filter(g => g.length >= 30)
    .map(g => ({
      lines: g.length,
      said: g.reduce((a, f) => a + f.said, 0) / g.length,
      right: (g.reduce((a, f) => a + f.right, 0) + 0.5) / (g.length + 1),
    }))
  const pooled: typeof groups = []
  for (const group of groups) {
    pooled.push(group)
    while (pooled.length > 1 && pooled.at(-2)!.right > pooled.at(-1)!.right) {
      const [b, a] = [pooled.pop()!, pooled.pop()!]
      const lines = a.lines + b.lines
      pooled.push({
        lines,
        said: (a.said * a.lines + b.said * b.lines) / lines,
        right: (a.right * a.lines + b.right * b.lines) / lines,
      })
    }
  }
  return pooled.map(({ said, right }) => [said, right])
}

/** Five decimals, without zeros at the end: as the formatter would have it. */
const toFive = (share: number) => Math.round(share * 1e5) / 1e5

const worlds = Number(process.argv[2] ?? 40)
const lines = Number(process.argv[3] ?? 1200)
const examples = Array.from({ length: worlds }, (_, n) => examplesOf(`fit-${n}`, lines)).flat()
const missing = examples.filter(e => e.right === e.rows.length - 1).length
const { weights, loss } = fit(examples, 400)
const straight = straighten(examples, weights)
const rounded = weights.map(w => Math.round(w * 1000) / 1000)
writeFileSync(
  new URL('../../core/banking/matching/weights.ts', import.meta.url),
  `import type { Feature } from './model'

/**
 * Fitted by \`npm run calibrate\` to ${examples.length.toLocaleString('en')} lines of ${worlds} simulated houses;
 * written by it, not by hand.
 */
export const WEIGHTS: Readonly<Record<Feature, number>> = {
${features.map((f, n) => `  ${f}: ${rounded[n]},`).join('\n')}
}

/** Shares of first proposals, and how often such were right in these houses. */
export const STRAIGHT: readonly (readonly [share: number, right: number])[] = [
${straight.map(([said, right]) => `  [${toFive(said)}, ${toFive(right)}],`).join('\n')}
]
`,
)
console.log(
  `${examples.length} lines, ${missing} of them without a right hypothesis; loss ${loss.toFixed(4)}`,
)
