import { keyOf, Matcher, sureEnough, type Action, type Proposal } from '../../core/banking/matching'
import type { TrueLine, UnrulyWorld } from '../../simulators/unruly/lines'

export const isRight = (action: Action | undefined, truth: TrueLine): boolean =>
  action !== undefined && truth.truth !== null && keyOf(action) === keyOf(truth.truth)

export interface Told {
  how: string
  confidence: number
  right: boolean
  automatic: boolean
  answerable: boolean
  text: string
  amount: number
  said: string
  truth: string
  reasons: string[]
}

/**
 * Matches every line in turn as the application does: what is sure is used, the rest a person resolves
 * rightly.
 */
export function askAll({ world, lines }: UnrulyWorld, wrongCosts = 40): Told[] {
  const matcher = new Matcher(world)
  const threshold = sureEnough(wrongCosts)
  return lines.map(own => {
    const { proposals, tie, asks } = matcher.match(own.line)
    const [best] = proposals
    const automatic = best !== undefined && !tie && !asks && best.confidence >= threshold
    const use: Proposal | undefined = automatic
      ? best
      : own.truth
        ? { action: own.truth, confidence: 1, reasons: [] }
        : undefined
    if (use) matcher.use(use)
    return {
      how: own.how,
      confidence: best?.confidence ?? 0,
      right: isRight(best?.action, own),
      automatic,
      answerable: own.answerable,
      text: `${own.line.name} / ${own.line.iban} / ${own.line.text} ${own.line.reference}`,
      amount: own.line.amount,
      said: best ? keyOf(best.action) : '',
      truth: own.truth ? keyOf(own.truth) : '',
      reasons: best?.reasons ?? [],
    }
  })
}

export interface Goals {
  lines: number
  automatic: number
  automaticRight: number
  rest: number
  restRight: number
}

export function goalsOf(told: readonly Told[]): Goals {
  const automatic = told.filter(t => t.automatic)
  const rest = told.filter(t => !t.automatic && t.answerable)
  return {
    lines: told.length,
    automatic: automatic.length,
    automaticRight: automatic.filter(t => t.right).length,
    rest: rest.length,
    restRight: rest.filter(t => t.right).length,
  }
}

/** What was said and what was right, by steps of confidence: a straight table says what it means. */
export function reliability(
  told: readonly Told[],
  steps: readonly number[] = [0.05, 0.5, 0.8, 0.9, 0.95, 0.98, 0.99, 0.995, 0.999],
): { from: number; to: number; lines: number; said: number; right: number }[] {
  return steps.flatMap((from, n) => {
    const to = steps[n + 1] ?? 1.0001
    const own = told.filter(t => t.confidence >= from && t.confidence < to)
    if (!own.length) return []
    return [
      {
        from,
        to: Math.min(1, to),
        lines: own.length,
        said: own.reduce((sum, t) => sum + t.confidence, 0) / own.length,
        right: own.filter(t => t.right).length / own.length,
      },
    ]
  })
}
