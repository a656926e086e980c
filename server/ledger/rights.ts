import { ABILITIES, can, rolesThatCan, type Ability, type Role } from '../../core/people'

/** What a Command, or a part of its request, takes. `path`: that part. */
export interface Need {
  ability: Ability
  path?: string
}

/** The person may not do this; says who may. */
export class NotAllowed extends Error {
  constructor(
    role: string,
    ability: Ability,
    readonly path?: string,
  ) {
    const who = rolesThatCan(ability).slice(0, 2).join(' or ')
    super(`a ${role || 'person without a role'} may not ${ABILITIES[ability]}: ask a ${who}`)
  }
}

/** Throws NotAllowed. */
export function requireAbility(by: { role: string }, ability: Ability, path?: string): void {
  if (!can(by.role as Role, ability)) throw new NotAllowed(by.role, ability, path)
}
