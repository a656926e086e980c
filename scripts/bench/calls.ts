import { follow, type Collected, type Strategy } from '../../simulators/debtors'
import { say } from './base'

const SEEDS = Array.from({ length: 20 }, (_, n) => `world ${n + 1}`)

/** What following the call list brings in, beside ringing by amount and by age, in worlds of known payers. */
export function callsMeasured(): void {
  say(`Twenty worlds of 400 customers whose ways the list does not know, 30 days, 8 calls on a working day:`)
  for (const strategy of ['list', 'amount', 'age'] as Strategy[]) {
    const all = SEEDS.map(seed => follow(strategy, seed))
    const sum = (of: (c: Collected) => number) => all.reduce((a, c) => a + of(c), 0)
    const calls = sum(c => c.calls)
    const per = (amount: number) => Math.round(amount / calls).toLocaleString('en')
    const best = SEEDS.filter(
      (_, n) => strategy === 'list' && all[n]!.gained > follow('amount', SEEDS[n]!).gained,
    ).length
    say(
      `  by ${strategy.padEnd(7)} ${calls} calls; per 100 calls ${per(sum(c => c.gained))} came that would not have ` +
        `come in these days, ${per(sum(c => c.paid))} in all` +
        (strategy === 'list' ? `; ahead of amount in ${best} of ${SEEDS.length} worlds` : ''),
    )
  }
}
