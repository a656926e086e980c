import { seesOwnCustomersOnly, type Role } from '../../../core/people'

/** Whose customers a reader sees; empty: all. */
export interface Scope {
  salesId?: number
}

export interface Actor {
  id: number
  name: string
  email: string
  role: Role
}

export function scopeOf(actor: Actor): Scope {
  return seesOwnCustomersOnly(actor.role) ? { salesId: actor.id } : {}
}
