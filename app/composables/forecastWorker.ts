import { onScopeDispose, ref } from 'vue'
import { contract } from '~~/contract'
import type { WhatIfBody } from '~~/contract/forecast'
import type { DatedForecast } from '~~/core/forecast'
import { callFile } from '~/utils/api'
import { isOfPage } from '~/utils/whatIf'
import type { Asked, Told } from '~/workers/forecast'

/** Tries what-ifs in a thread of the page, once it has been given the house; until then the server does. */
export function useForecastWorker() {
  let worker: Worker | null = null
  const isReady = ref(false)
  let last = 0
  const waiting = new Map<number, { resolve: (told: Told) => void; reject: (error: Error) => void }>()

  function begun(): Worker {
    if (worker) return worker
    worker = new Worker(new URL('../workers/forecast.ts', import.meta.url), { type: 'module' })
    worker.onmessage = ({ data }: MessageEvent<Told>) => {
      waiting.get(data.id)?.resolve(data)
      waiting.delete(data.id)
    }
    worker.onerror = event => {
      isReady.value = false
      for (const { reject } of waiting.values()) reject(new Error(event.message))
      waiting.clear()
    }
    return worker
  }
  function ask(asked: (id: number) => Asked): Promise<Told> {
    const id = ++last
    return new Promise((resolve, reject) => {
      waiting.set(id, { resolve, reject })
      begun().postMessage(asked(id))
    })
  }
  /** Gives it the house as it stands for a question. */
  async function prepare(query: Record<string, string | number | undefined>): Promise<void> {
    isReady.value = false
    const material = await (await callFile(contract.forecast.material, { query })).text()
    const told = await ask(id => ({ id, material }))
    isReady.value = told.id === last && 'ready' in told && told.ready
  }
  /** Answers null when the server has to be asked. */
  async function tryHere(whatIf: WhatIfBody, by: 'week' | 'day'): Promise<DatedForecast | null> {
    if (!isReady.value || !isOfPage(whatIf)) return null
    // Reactive objects do not go from thread to thread.
    const plain = JSON.parse(JSON.stringify(whatIf)) as WhatIfBody
    const told = await ask(id => ({ id, whatIf: plain, by }))
    return 'answer' in told ? told.answer : null
  }
  onScopeDispose(() => worker?.terminate())
  return { isReady, prepare, tryHere }
}
