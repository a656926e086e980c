import ipaddr from 'ipaddr.js'

type Address = ipaddr.IPv4 | ipaddr.IPv6

function parse(text: string): Address | undefined {
  return ipaddr.isValid(text) ? ipaddr.process(text) : undefined
}

/** Whether this is an address, or a range such as 10.0.0.0/8. */
export function isRange(text: string): boolean {
  return ipaddr.isValid(text) || ipaddr.isValidCIDR(text)
}

function isWithin(address: Address, ranges: readonly string[]): boolean {
  return ranges.some(range => {
    const [base, bits] = ipaddr.isValidCIDR(range)
      ? ipaddr.parseCIDR(range)
      : ([ipaddr.process(range), 128] as const)
    if (base.kind() !== address.kind()) return false
    return address.kind() === 'ipv4'
      ? (address as ipaddr.IPv4).match(base as ipaddr.IPv4, Math.min(32, bits))
      : (address as ipaddr.IPv6).match(base as ipaddr.IPv6, bits)
  })
}

/**
 * Where a request comes from. `X-Forwarded-For` is believed only as far as proxies of ours wrote it: from the
 * right, past each trusted one, to the first that is not. Anybody may write the rest.
 */
export function callerOf(
  remote: string | undefined,
  forwarded: string | undefined,
  proxies: readonly string[],
): string {
  const steps = [...(forwarded ?? '').split(','), remote ?? ''].map(s => s.trim()).filter(Boolean)
  let caller = steps.pop() ?? ''
  for (;;) {
    const address = parse(caller)
    const before = steps.at(-1)
    if (!address || !isWithin(address, proxies) || before === undefined || !parse(before)) return caller
    caller = steps.pop()!
  }
}

/** What counts as one network: an IPv4 address, or the first half of an IPv6 one, one household's. */
export function networkOf(caller: string): string {
  const address = parse(caller)
  if (!address) return caller.slice(0, 64)
  if (address.kind() === 'ipv4') return address.toString()
  const half = (address as ipaddr.IPv6).parts.map((part, i) => (i < 4 ? part : 0))
  return `${new ipaddr.IPv6(half).toString()}/64`
}

const LOOPBACK = new Set(['localhost', '127.0.0.1', '[::1]'])

/** The name in a Host header, without its port. */
export const hostName = (host: string): string =>
  host.trim().toLowerCase().replace(/:\d+$/, '').replace(/\.$/, '')

/** A page elsewhere whose name points at us is not answered: only names that Setup lists, and loopback. */
export const isOurHost = (host: string | undefined, hosts: readonly string[]): boolean =>
  host !== undefined && (LOOPBACK.has(hostName(host)) || hosts.includes(hostName(host)))
