import { z } from 'zod'
import { cell } from '../../db/rows'
import type { Handle } from '../../db/handle'
import { ABILITIES, can, ROLE_WORDS, rolesThatCan, type Ability, type Role } from '../../../core/people'
import type { Session } from '../../../contract/people'
import { audit } from '../../db/settings'
import { notFound, ProblemError } from '../common/problems'
import { checkPassword, hashPassword, isRight } from './passwords'
import type { Actor } from './scope'
import { endSessionsOf } from './sessions'

const personRow = z.object({
  id: cell.whole,
  email: cell.text,
  name: cell.text,
  role: cell.word<Role>(),
  passwordHash: cell.text,
  active: cell.whole,
  mustChange: cell.whole,
})
type PersonRow = z.output<typeof personRow>
const PERSON = `SELECT id, email, name, role, password_hash AS passwordHash, active,
  must_change AS mustChange FROM person`

export function sessionOf(actor: Actor, mustChange: boolean): Session {
  const abilities = (Object.keys(ABILITIES) as Ability[]).filter(a => can(actor.role, a))
  return { person: { name: actor.name, email: actor.email, role: actor.role }, abilities, mustChange }
}

export async function findByEmail(database: Handle, email: string): Promise<PersonRow | undefined> {
  const [row] = await database.rows(personRow, `${PERSON} WHERE email = :email`, { email })
  return row
}

export async function findActor(database: Handle, id: number): Promise<Actor | undefined> {
  const [row] = await database.rows(personRow, `${PERSON} WHERE id = :id AND active = 1`, { id })
  return row && { id: row.id, name: row.name, email: row.email, role: row.role }
}

const actorWhoRow = z.object({
  id: cell.whole,
})

/**
 * In whose name work is posted that nobody is at: this person's while they may do it, else that of one who
 * may. There always is one: the last administrator stays.
 */
export async function actorWho(database: Handle, ability: Ability, personId: number | null): Promise<Actor> {
  const named = personId === null ? undefined : await findActor(database, personId)
  if (named && can(named.role, ability)) return named
  const [other] = await database.rows(
    actorWhoRow,
    'SELECT id FROM person WHERE role IN (:roles) AND active = 1 ORDER BY FIELD(role, :roles), id LIMIT 1',
    { roles: rolesThatCan(ability) },
  )
  const found = other && (await findActor(database, other.id))
  if (!found) throw new Error(`nobody may ${ABILITIES[ability]}`)
  return found
}

const shown = ({ passwordHash: _, active, mustChange, ...p }: PersonRow) => ({
  ...p,
  active: Boolean(active),
  mustChange: Boolean(mustChange),
})

export async function listPeople(database: Handle) {
  return { items: (await database.rows(personRow, `${PERSON} ORDER BY name`)).map(shown) }
}

async function readPerson(database: Handle, id: number) {
  const [row] = await database.rows(personRow, `${PERSON} WHERE id = :id`, { id })
  if (!row) throw notFound(`person ${id}`)
  return row
}

export async function addPerson(
  database: Handle,
  by: number,
  body: { name: string; email: string; role: Role; password: string },
) {
  checkPassword(body.password, body)
  const passwordHash = await hashPassword(body.password)
  return database.transaction(async tx => {
    const [taken] = await tx.find('person', { email: body.email }, { columns: ['id'] })
    if (taken)
      throw new ProblemError(409, 'Already there', `${body.email} has an account already`, [
        { path: 'email', message: 'this e-mail has an account already' },
      ])
    const [id] = await tx.insert('person', [
      {
        name: body.name,
        email: body.email,
        role: body.role,
        password_hash: passwordHash,
        must_change: 1,
      },
    ])
    await audit(tx, by, 'person', body.email, null, JSON.stringify({ name: body.name, role: body.role }))
    return shown(await readPerson(tx, id!))
  })
}

/** Changes role, access or password of a person; whatever it is, their sessions end. */
export async function changePerson(
  database: Handle,
  by: Actor,
  id: number,
  body: { role?: Role; active?: boolean; password?: string },
) {
  const before = await readPerson(database, id)
  if (id === by.id && (body.active === false || (body.role && body.role !== by.role))) {
    throw new ProblemError(
      409,
      'Not yourself',
      'you cannot take away your own access: ask another administrator',
    )
  }
  if (id === by.id && body.password)
    throw new ProblemError(409, 'Not yourself', 'change your own password with the one you have', [
      { path: 'password', message: 'use Password under Setup' },
    ])
  if (body.password) checkPassword(body.password, before)
  const passwordHash = body.password ? await hashPassword(body.password) : before.passwordHash
  return database.transaction(async tx => {
    await tx.update(
      'person',
      {
        role: body.role ?? before.role,
        active: Number(body.active ?? before.active),
        password_hash: passwordHash,
        must_change: body.password ? 1 : before.mustChange,
      },
      { id },
    )
    const isOther = (body.role ?? before.role) !== before.role
    if (body.password || isOther || body.active === false) await endSessionsOf(tx, id)
    const after = shown(await readPerson(tx, id))
    await audit(
      tx,
      by.id,
      'person',
      before.email,
      JSON.stringify(shown(before)),
      JSON.stringify({ ...after, passwordChanged: Boolean(body.password) }),
    )
    return after
  })
}

/** A person's own password; every session of theirs ends, so who had the old one is out. */
export async function changeOwnPassword(
  database: Handle,
  actor: Actor,
  body: { current: string; password: string },
): Promise<void> {
  const row = await readPerson(database, actor.id)
  if (!(await isRight(body.current, row.passwordHash))) {
    throw new ProblemError(422, 'Wrong password', 'the current password is not right', [
      { path: 'current', message: 'the current password is not right' },
    ])
  }
  checkPassword(body.password, row)
  if (body.password === body.current)
    throw new ProblemError(422, 'The same password', 'this is the password you have: choose another', [
      { path: 'password', message: 'choose another' },
    ])
  const passwordHash = await hashPassword(body.password)
  await database.transaction(async tx => {
    await tx.update('person', { password_hash: passwordHash, must_change: 0 }, { id: actor.id })
    await endSessionsOf(tx, actor.id)
    await audit(tx, actor.id, 'person', actor.email, null, JSON.stringify({ passwordChanged: true }))
  })
}

/** Ends every session of a person, for an administrator: a machine was lost, somebody left in a hurry. */
export async function signOutPerson(database: Handle, by: Actor, id: number): Promise<void> {
  const person = await readPerson(database, id)
  await database.transaction(async tx => {
    await endSessionsOf(tx, id)
    await audit(tx, by.id, 'session', person.email, 'open', 'ended by an administrator')
  })
}

const demoPeopleRow = z.object({
  value: cell.text,
})

const demoPeoplePersonRow = z.object({
  name: cell.text,
  email: cell.text,
  role: cell.word<Role>(),
})

/**
 * Who the demo can be entered as. Its password is a setting that only loading the demo writes, so a house
 * with books of its own shows nobody.
 */
export async function demoPeople(database: Handle) {
  const [row] = await database.rows(
    demoPeopleRow,
    `SELECT value FROM setting WHERE name = 'demoPassword'
      AND EXISTS (SELECT 1 FROM setting d WHERE d.name = 'demo' AND d.value = 'true')`,
  )
  if (!row) return { password: null, items: [] }
  const people = await database.rows(
    demoPeoplePersonRow,
    `SELECT name, email, role FROM person WHERE active = 1 AND must_change = 0
      AND email LIKE '%@wrackline.example' ORDER BY id LIMIT 12`,
  )
  return {
    password: JSON.parse(row.value) as string,
    items: people.map(p => ({ ...p, does: ROLE_WORDS[p.role] })),
  }
}
