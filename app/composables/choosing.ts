const CHOOSING = ['ArrowDown', 'ArrowUp', 'Enter']

const frames = (): Promise<void> =>
  new Promise(resolve => requestAnimationFrame(() => requestAnimationFrame(() => resolve())))

/**
 * Keys that choose from a list that is still being looked for, or whose row an arrow has not marked yet (it
 * is marked in the next frame), wait instead of choosing what was there before, or nothing. `hold` takes the
 * key presses of the field before the list does; `release` is called when what was looked for is there.
 */
export function useChoosing(looking: () => boolean) {
  let isMoving = false
  let target: EventTarget | null = null
  const held: string[] = []

  function hold(event: KeyboardEvent): void {
    if (event.defaultPrevented || !CHOOSING.includes(event.key)) return
    target = event.target
    // Those given on below are ours: they have waited.
    if (looking() || (isMoving && event.isTrusted)) {
      event.preventDefault()
      event.stopImmediatePropagation()
      held.push(event.key)
    } else if (event.key !== 'Enter' && event.isTrusted) void move()
  }
  async function move(): Promise<void> {
    isMoving = true
    await frames()
    isMoving = false
    await release()
  }
  async function release(): Promise<void> {
    for (let key = held.shift(); key; key = held.shift()) {
      await frames()
      target?.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }))
    }
  }
  return { hold, release }
}
