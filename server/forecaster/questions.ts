import {
  bridgeOf,
  forecast,
  forecastItems,
  materialOf,
  testedWeeks,
  type ForecastAsk,
  type ItemsOf,
  type Learnt,
  type Tell,
} from '../../core/forecast'

/*
 * What can be asked of a ledger whose customers' habits were learnt. A question is a pure function of
 * `core/forecast`; what is asked and answered goes from thread to thread, so both are plain values.
 */

interface PartAsk {
  ask: ForecastAsk
  of: ItemsOf
  limit: number
}

export const QUESTIONS = {
  forecast: (learnt: Learnt, ask: ForecastAsk, tell: Tell) => forecast(learnt, ask, tell),
  part: (learnt: Learnt, { ask, of, limit }: PartAsk) => forecastItems(learnt, ask, of, limit),
  tested: (learnt: Learnt, ask: Parameters<typeof testedWeeks>[1]) => testedWeeks(learnt, ask),
  material: (learnt: Learnt, ask: ForecastAsk) => materialOf(learnt, ask),
  bridge: (learnt: Learnt, { seed }: { seed: string }) => bridgeOf(learnt, seed),
}
export type QuestionName = keyof typeof QUESTIONS
export type Ask<Name extends QuestionName> = Parameters<(typeof QUESTIONS)[Name]>[1]
export type Answer<Name extends QuestionName> = ReturnType<(typeof QUESTIONS)[Name]>

/** Answers a question; `name` and `ask` belong together. */
export function answer<Name extends QuestionName>(
  learnt: Learnt,
  name: Name,
  ask: Ask<Name>,
  tell: Tell,
): Answer<Name> {
  const question = QUESTIONS[name] as (learnt: Learnt, ask: Ask<Name>, tell: Tell) => Answer<Name>
  return question(learnt, ask, tell)
}
