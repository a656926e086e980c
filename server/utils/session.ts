import { deleteCookie, getCookie, getHeader, setCookie, type H3Event } from 'h3'
import type { Handle } from '../db/handle'
import { accessRules } from '../services/people/access'
import { callerOf, networkOf } from '../services/people/network'
import { ProblemError } from '../services/common/problems'
import { findSession, type From, type SignedIn } from '../services/people/sessions'

/** Whether browsers reach us by HTTPS, by a certificate of ours or through a proxy that has one. */
export const isHttps = () => process.env.BILANCIO_HTTPS === '1'

// The prefix binds a cookie to this very host (RFC 6265bis, 4.1.3.2); browsers take it over HTTPS only.
const cookieName = () => (isHttps() ? '__Host-bilancio' : 'bilancio')
const cookie = () => ({ httpOnly: true, sameSite: 'strict', path: '/', secure: isHttps() }) as const

export function tokenOf(event: H3Event): string | undefined {
  const token = getCookie(event, cookieName())
  return token && /^[\w-]{43}$/.test(token) ? token : undefined
}

export async function giveSession(event: H3Event, database: Handle, token: string): Promise<void> {
  const { absoluteHours } = await accessRules(database)
  setCookie(event, cookieName(), token, { ...cookie(), maxAge: absoluteHours * 3600 })
}

export function takeSession(event: H3Event): void {
  deleteCookie(event, cookieName(), cookie())
}

/** Who is signed in. Throws 401. */
export async function requireSession(event: H3Event, database: Handle): Promise<SignedIn> {
  const token = tokenOf(event)
  const signedIn = token && (await findSession(database, token, await accessRules(database)))
  if (!signedIn) throw new ProblemError(401, 'Not signed in', 'sign in first: POST /api/session')
  return signedIn
}

/** Where a request comes from. */
export async function fromOf(event: H3Event, database: Handle): Promise<From> {
  const { proxies } = await accessRules(database)
  const caller = callerOf(event.node.req.socket.remoteAddress, getHeader(event, 'x-forwarded-for'), proxies)
  return { network: networkOf(caller), agent: getHeader(event, 'user-agent') ?? '' }
}
