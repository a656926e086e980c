import { onBeforeUnmount, onMounted, shallowReactive } from 'vue'
import { isPosting } from '~/composables/typeAhead'

export interface Key {
  key: string
  label: string
  run: (event: KeyboardEvent) => void
  inFields?: boolean
  when?: () => boolean
}

const registered = shallowReactive(new Set<Key[]>())

const inField = (target: EventTarget | null) =>
  target instanceof HTMLElement &&
  (target.matches('textarea, select, [contenteditable="true"]') ||
    (target instanceof HTMLInputElement && !['checkbox', 'radio', 'button', 'file'].includes(target.type)))

/** An amount has no letters in it: a letter typed there is a command, as are the arrows up and down. */
const commandInMoney = (event: KeyboardEvent) =>
  event.target instanceof HTMLElement &&
  event.target.dataset.money !== undefined &&
  /^([a-z/?]|ArrowDown|ArrowUp)$/i.test(event.key)

/** "Ctrl+Enter", "Shift+U", "o": how a key is written for people and matched. */
function matches(event: KeyboardEvent, key: string): boolean {
  const parts = key.split('+')
  const name = key === '+' ? '+' : parts.pop()!
  const ctrl = parts.includes('Ctrl')
  if (ctrl !== (event.ctrlKey || event.metaKey) || parts.includes('Alt') !== event.altKey) return false
  return name.length === 1 ? event.key.toLowerCase() === name.toLowerCase() : event.key === name
}

function onKey(event: KeyboardEvent): void {
  if (event.defaultPrevented || event.isComposing) return
  for (const keys of [...registered].reverse()) {
    for (const key of keys) {
      if (
        !matches(event, key.key) ||
        (!key.inFields && inField(event.target) && !commandInMoney(event)) ||
        (key.when && !key.when())
      )
        continue
      // Enter and space on a link or button belong to it.
      if (
        (key.key === 'Enter' || key.key === ' ') &&
        event.target instanceof HTMLElement &&
        event.target.matches('a, button, summary, [role="option"], [role="menuitem"], [role="radio"]')
      )
        continue
      if (document.querySelector('[role="dialog"]') && !key.inFields) continue
      event.preventDefault()
      // A finger that rests on the keys posts once.
      if (event.repeat && isPosting(event)) return
      // Moving in a list leaves the button that had the focus: the next key is for the row.
      if (
        key.key.startsWith('Arrow') &&
        document.activeElement instanceof HTMLElement &&
        document.activeElement.matches('a, button')
      )
        document.activeElement.blur()
      key.run(event)
      return
    }
  }
  // Escape leaves a field, so that the keys of the screen work again.
  if (event.key === 'Escape' && inField(event.target) && !document.querySelector('[role="dialog"]'))
    (event.target as HTMLElement).blur()
}

/** Registers the keys of a screen while it is shown; `?` lists them. */
export function useKeys(keys: Key[]): void {
  onMounted(() => {
    if (!registered.size) window.addEventListener('keydown', onKey)
    registered.add(keys)
  })
  onBeforeUnmount(() => {
    registered.delete(keys)
    if (!registered.size) window.removeEventListener('keydown', onKey)
  })
}

export const shownKeys = () => [...registered].flat().filter(k => k.label && (!k.when || k.when()))
export const keyText = (key: string) =>
  ({
    ArrowDown: '↓',
    ArrowUp: '↑',
    ' ': 'Space',
    'Ctrl+Enter': 'Ctrl ↵',
    Enter: '↵',
    Escape: 'Esc',
  })[key] ?? key.toUpperCase().replace('+', ' ').trim()
