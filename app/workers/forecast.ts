import { parse } from 'devalue'
import type { WhatIfBody } from '~~/contract/forecast'
import {
  dated,
  forecast,
  learntFrom,
  type DatedForecast,
  type Learnt,
  type SentHouse,
} from '~~/core/forecast'
import { whatIfOf } from '~/utils/whatIf'

/*
 * Tries what-ifs beside the page: the house is sent once, each what-if then needs no server.
 */

export type Asked = { id: number; material: string } | { id: number; whatIf: WhatIfBody; by: 'week' | 'day' }
export type Told = { id: number; ready: boolean } | { id: number; answer: DatedForecast }

let sent: SentHouse | null = null
let learnt: Learnt | null = null

self.onmessage = ({ data }: MessageEvent<Asked>) => {
  if ('material' in data) {
    sent = parse(data.material) as SentHouse | null
    learnt = sent && learntFrom(sent.material)
    // What is asked next is tried beside the forecast as it is: that is worked out now.
    if (sent && learnt) forecast(learnt, sent.material.ask)
    self.postMessage({ id: data.id, ready: learnt !== null } satisfies Told)
    return
  }
  const ask = whatIfOf(sent!, data.whatIf)
  const answer = dated(forecast(learnt!, ask), data.by, sent!.alert)
  self.postMessage({ id: data.id, answer } satisfies Told)
}
