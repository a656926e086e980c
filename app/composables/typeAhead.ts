import { nextTick } from 'vue'

/*
 * Whoever knows the way types faster than screens load: `/ batches Enter o 500` on a slow line. While a
 * screen is on its way, keys are held; when it stands they are given to it in their order, as if typed then.
 */

interface Held {
  key: string
  code: string
  shiftKey: boolean
  ctrlKey: boolean
  altKey: boolean
  metaKey: boolean
}

const held: Held[] = []
/** What the keys wait for; empty: nothing, they go where they are typed. */
const reasons = new Set<symbol>()
let replaying = false
/** A screen that does not come is no reason to swallow keys for ever. */
const LONGEST_MS = 8000

/** Holds keys until the answer is called. */
export function holdKeys(): () => void {
  const reason = Symbol('hold')
  reasons.add(reason)
  const release = () => {
    if (reasons.delete(reason)) void replay()
  }
  setTimeout(release, LONGEST_MS)
  return release
}

const isModifier = (key: string) => ['Shift', 'Control', 'Alt', 'Meta', 'AltGraph', 'CapsLock'].includes(key)
/** What the browser does itself, such as reload, stays with it. */
const isBrowsers = (event: KeyboardEvent) =>
  /^F\d+$/.test(event.key) || (event.metaKey && event.key !== 'Enter')

/** Proofs on their way: what is typed to post waits for them, what is typed into a field does not. */
const proofs = new Set<symbol>()
let releasePosting: (() => void) | undefined

export const isPosting = (key: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey'>) =>
  key.key === 'Enter' && (key.ctrlKey || key.metaKey)

/**
 * A Proof is on its way: Ctrl+Enter and what follows it are held until the answer is called. It is called
 * with `true` when what is held may go on; a Proof that asks to look twice forgets the Ctrl+Enter.
 */
export function expectProof(): (mayGoOn?: boolean) => void {
  const proof = Symbol('proof')
  proofs.add(proof)
  const release = (mayGoOn = true) => {
    if (!proofs.delete(proof)) return
    if (!mayGoOn) forgetPosting()
    if (proofs.size) return
    releasePosting?.()
    releasePosting = undefined
  }
  setTimeout(release, LONGEST_MS)
  return release
}

function forgetPosting(): void {
  const at = held.findIndex(isPosting)
  if (at >= 0) held.splice(at, 1)
}

export function captureKeys(): void {
  window.addEventListener(
    'keydown',
    event => {
      if (!event.isTrusted) return
      if (proofs.size && !releasePosting && !event.repeat && isPosting(event)) releasePosting = holdKeys()
      if (!reasons.size && !replaying) {
        goOnChoosing(event)
        return
      }
      if (isModifier(event.key) || isBrowsers(event) || event.isComposing) return
      event.preventDefault()
      event.stopImmediatePropagation()
      const { key, code, shiftKey, ctrlKey, altKey, metaKey } = event
      held.push({ key, code, shiftKey, ctrlKey, altKey, metaKey })
    },
    { capture: true },
  )
}

async function replay(): Promise<void> {
  if (replaying || reasons.size) return
  replaying = true
  try {
    while (held.length && !reasons.size) {
      give(held.shift()!)
      await nextTick()
      // What a key opens takes the focus a moment later.
      await new Promise(resolve => setTimeout(resolve, 0))
    }
  } finally {
    replaying = false
  }
}

const isTextField = (element: Element): element is HTMLInputElement | HTMLTextAreaElement =>
  element instanceof HTMLTextAreaElement ||
  (element instanceof HTMLInputElement &&
    !['checkbox', 'radio', 'button', 'file', 'submit'].includes(element.type))

/** One key to whoever has the focus: its listeners first, then what a browser does with a real one. */
function give(key: Held): void {
  const target = document.activeElement ?? document.body
  const event = new KeyboardEvent('keydown', { ...key, bubbles: true, cancelable: true, composed: true })
  if (!target.dispatchEvent(event)) return
  if (key.key === 'Tab') moveFocus(key.shiftKey ? -1 : 1)
  else if (key.key === 'Enter' && target instanceof HTMLElement && target.matches('a, button')) target.click()
  else if (key.key === 'Enter' && target instanceof HTMLInputElement) target.form?.requestSubmit()
  else if (key.ctrlKey || key.altKey) return
  else if (isTextField(target)) typeInto(target, key.key)
  else if (target instanceof HTMLSelectElement) choose(target, key.key)
}

/** What was typed to choose from a list, as a browser keeps it for a real one: forgotten after a second. */
const choosing = { list: null as HTMLSelectElement | null, text: '', until: 0 }
const FORGOTTEN_MS = 1000

/** A key for a list that is chosen from: letters find the first that begins so, arrows go on by one. */
function choose(list: HTMLSelectElement, key: string): void {
  const step = { ArrowDown: 1, ArrowUp: -1 }[key]
  if (step === undefined && key.length !== 1) return
  const goesOn = choosing.list === list && performance.now() < choosing.until
  choosing.text = step === undefined ? (goesOn ? choosing.text : '') + key.toLowerCase() : ''
  choosing.list = list
  choosing.until = performance.now() + FORGOTTEN_MS
  const options = [...list.options]
  const found =
    step === undefined
      ? options.findIndex(o => !o.disabled && o.text.trim().toLowerCase().startsWith(choosing.text))
      : list.selectedIndex + step
  if (!options[found] || found === list.selectedIndex) return
  list.selectedIndex = found
  list.dispatchEvent(new Event('input', { bubbles: true }))
  list.dispatchEvent(new Event('change', { bubbles: true }))
}

/** A real key behind those that we gave to a list: the browser does not know how the word began. */
function goOnChoosing(event: KeyboardEvent): void {
  const { list, text, until } = choosing
  const isLetter = event.key.length === 1 && !event.ctrlKey && !event.altKey && !event.metaKey
  if (!text || !isLetter || list !== document.activeElement || performance.now() >= until) return
  event.preventDefault()
  event.stopImmediatePropagation()
  choose(list!, event.key)
}

function typeInto(field: HTMLInputElement | HTMLTextAreaElement, key: string): void {
  const start = field.selectionStart ?? field.value.length
  const end = field.selectionEnd ?? start
  if (key.length === 1) field.setRangeText(key, start, end, 'end')
  else if (key === 'Backspace')
    field.setRangeText('', start === end ? Math.max(0, start - 1) : start, end, 'end')
  else return
  field.dispatchEvent(new InputEvent('input', { bubbles: true, inputType: 'insertText', data: key }))
}

const FOCUSABLE =
  'a[href], button:not(:disabled), input:not(:disabled), select:not(:disabled), textarea:not(:disabled), [tabindex]'

function moveFocus(by: 1 | -1): void {
  const all = [...document.querySelectorAll<HTMLElement>(FOCUSABLE)].filter(
    e => e.tabIndex >= 0 && e.offsetParent !== null,
  )
  const at = all.indexOf(document.activeElement as HTMLElement)
  all[(at + by + all.length) % all.length]?.focus()
}
