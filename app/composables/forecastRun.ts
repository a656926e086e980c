import { onScopeDispose, ref } from 'vue'
import { contract } from '~~/contract'
import { call, problemText } from '~/utils/api'
import { fill } from '~/utils/fill'

/** Progress is asked for so often, and told only of what takes longer. */
const ASK_MS = 400

/**
 * Runs forecasts one at a time: a newer one stops the one before. How much is done is told while it lasts,
 * and who does not want to wait stops it.
 */
export function useForecastRun() {
  const busy = ref(false)
  /** From 0 to 1; null while nothing is told. */
  const share = ref<number | null>(null)
  const trouble = ref('')
  let controller: AbortController | null = null
  let timer: ReturnType<typeof setInterval> | undefined

  async function askShare(run: string): Promise<void> {
    try {
      await fill(share, async () => (await call(contract.forecast.progress, { params: { run } })).share)
    } catch (error) {
      trouble.value = problemText(error)
    }
  }
  function stop(): void {
    controller?.abort()
    controller = null
    clearInterval(timer)
    busy.value = false
    share.value = null
  }
  /** Answers null when it was stopped, or did not work: the trouble is told then. */
  async function go<T>(work: (run: string, signal: AbortSignal) => Promise<T>): Promise<T | null> {
    stop()
    const mine = new AbortController()
    controller = mine
    const run = crypto.randomUUID()
    busy.value = true
    timer = setInterval(() => void askShare(run), ASK_MS)
    try {
      const answer = await work(run, mine.signal)
      if (mine.signal.aborted) return null
      trouble.value = ''
      return answer
    } catch (error) {
      if (!mine.signal.aborted) trouble.value = problemText(error)
      return null
    } finally {
      if (controller === mine) stop()
    }
  }
  onScopeDispose(stop)
  return { busy, share, trouble, go, stop }
}
