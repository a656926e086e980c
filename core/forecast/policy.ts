/** Below what the money at the bank must not fall, and from which chance of that somebody is told. */
export interface ForecastPolicy {
  /** Base minor units; negative: an overdraft of so much. */
  floor: number
  /** Per cent. */
  alert: number
}

/** Where a house begins: our judgement. */
export const FORECAST_POLICY: ForecastPolicy = { floor: 0, alert: 20 }
