import type { Behaviour } from './behaviour'

/*
 * A score from 0 to 100, the higher the better: an average of parts, each 0 to 100, by weights that the house
 * may change. What the parts are made of and where they end is ours; that lateness, its trend, returned
 * payments and the age of the relation tell of it is common practice.
 */

export interface ScorePartRow {
  label: string
  /** What earns a hundred, and what nothing. */
  scale: string
  weight: number
  /** 0 to 100; null when nothing is known: the other parts speak then. */
  of: (b: Behaviour) => number | null
  said: (b: Behaviour) => string
}

/** From a hundred at `best` to nothing at `worst`, in a straight line. */
function between(value: number | null, best: number, worst: number): number | null {
  if (value === null) return null
  return 100 * Math.min(1, Math.max(0, (worst - value) / (worst - best)))
}

const days = (value: number) => {
  const n = Math.round(Math.abs(value))
  return `${n} ${n === 1 ? 'day' : 'days'}`
}
const percent = (share: number) => `${Math.round(share * 100)} %`

const ROWS = {
  daysLate: {
    label: 'Days late',
    scale: '100 when paid on time, 0 from 60 days late',
    weight: 30,
    of: b => between(b.daysLate, 0, 60),
    said: b =>
      b.daysLate === null
        ? 'nothing was paid in the last year'
        : `paid ${days(b.daysLate)} ${b.daysLate < 0 ? 'early' : 'late'} over the last year, weighted by amount`,
  },
  trend: {
    label: 'Trend',
    scale: '100 when it pays no later than before, 0 from 30 days later',
    weight: 10,
    of: b => between(b.trend, 0, 30),
    said: b =>
      b.trend === null
        ? 'too little was paid to say'
        : `${days(b.trend)} ${b.trend < 0 ? 'earlier' : 'later'} in the last half year than in the one before`,
  },
  shareLate: {
    label: 'Share late',
    scale: '100 when nothing came late, 0 when all did',
    weight: 20,
    of: b => between(b.shareLate, 0, 1),
    said: b =>
      b.shareLate === null
        ? 'nothing was paid in the last year'
        : `${percent(b.shareLate)} of what was paid came after its due date`,
  },
  shareOverdue: {
    label: 'Long open',
    scale: '100 when nothing is over 30 days late, 0 from half of what is open',
    weight: 20,
    of: b => between(b.shareOverdue, 0, 0.5),
    said: b =>
      b.shareOverdue === null
        ? 'nothing is open'
        : `${percent(b.shareOverdue)} of what is open is more than 30 days late`,
  },
  returned: {
    label: 'Returned payments',
    scale: '100 for none, 0 from two in a year',
    weight: 5,
    of: b => between(b.returned, 0, 2),
    said: b =>
      b.returned === 0
        ? 'no payment came back in the last year'
        : `${b.returned} ${b.returned === 1 ? 'payment' : 'payments'} came back in the last year`,
  },
  promises: {
    label: 'Promises',
    scale: '100 when all were kept, 0 when none was; of the last year',
    weight: 10,
    of: b => (b.promised === 0 ? null : between(b.broken / b.promised, 0, 1)),
    said: b =>
      b.promised === 0
        ? 'nothing was promised in the last year'
        : `${b.broken} of ${b.promised} ${b.promised === 1 ? 'promise was' : 'promises were'} missed in the last year`,
  },
  months: {
    label: 'Age of the account',
    scale: '100 from two years, 0 at the first invoice',
    weight: 5,
    of: b => between(-b.months, -24, 0),
    said: b => {
      const months = Math.floor(b.months)
      return `first invoice ${months === 1 ? 'a month' : `${months} months`} ago`
    },
  },
} satisfies Record<string, ScorePartRow>

export type ScorePart = keyof typeof ROWS
export const SCORE_PARTS: Readonly<Record<ScorePart, ScorePartRow>> = ROWS
export const SCORE_PART_NAMES = Object.keys(SCORE_PARTS) as ScorePart[]

/** Weights by part, zero or more: only how they stand to each other counts. */
export type Weights = Record<ScorePart, number>
export const WEIGHTS = Object.fromEntries(
  SCORE_PART_NAMES.map(name => [name, SCORE_PARTS[name].weight]),
) as Weights

export interface Scored {
  /** 0 to 100, not rounded; null when no part with a weight is known. */
  score: number | null
  /** Each part with its points, and how much of the score it gives. */
  parts: { part: ScorePart; points: number | null; weight: number; gives: number }[]
}

/** The score of a behaviour: parts that are not known leave their weight to the others. */
export function scoreOf(behaviour: Behaviour, weights: Weights): Scored {
  const parts = SCORE_PART_NAMES.map(part => ({
    part,
    points: SCORE_PARTS[part].of(behaviour),
    weight: weights[part],
  }))
  const whole = parts.reduce((sum, p) => (p.points === null ? sum : sum + p.weight), 0)
  const gives = (p: (typeof parts)[number]) =>
    p.points === null || whole === 0 ? 0 : (p.points * p.weight) / whole
  // Who has paid nothing yet and owes nothing late has shown nothing.
  const isKnown = whole > 0 && (behaviour.paid > 0 || (behaviour.shareOverdue ?? 0) > 0)
  return {
    score: isKnown ? parts.reduce((sum, p) => sum + gives(p), 0) : null,
    parts: parts.map(p => ({ ...p, gives: gives(p) })),
  }
}
