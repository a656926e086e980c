import bcrypt from 'bcryptjs'
import type { Handle } from '../../db/handle'
import { ABILITIES, can, type Ability, type Role } from '../../../core/people'
import type { Session } from '../../../contract/people'
import { int } from '../../db/connection'
import { audit } from '../../db/settings'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from './scope'

interface PersonRow {
  id: number
  email: string
  name: string
  role: Role
  passwordHash: string
  active: number
}
const PERSON = 'SELECT id, email, name, role, password_hash AS passwordHash, active FROM person'
const ROUNDS = 10
/** Compared against when the e-mail is unknown, so that both answers take the same time. */
const NOBODY = bcrypt.hashSync('nobody has this password', ROUNDS)
const MINUTES = 10
const PER_EMAIL = 10
const PER_ADDRESS = 60

export const hashPassword = (password: string) => bcrypt.hash(password, ROUNDS)

export function sessionOf(actor: Actor): Session {
  const abilities = (Object.keys(ABILITIES) as Ability[]).filter(a => can(actor.role, a))
  return { person: { name: actor.name, email: actor.email, role: actor.role }, abilities }
}

/**
 * Checks e-mail and password. After too many failures in ten minutes nobody gets in for a while, right
 * password or not.
 */
export async function signIn(
  database: Handle,
  email: string,
  password: string,
  address: string,
): Promise<Actor> {
  const [failed] = await database.select(
    `
    SELECT SUM(email = :email) AS byEmail, SUM(address = :address) AS byAddress FROM sign_in_failure
    WHERE (email = :email OR address = :address) AND at > UTC_TIMESTAMP(3) - INTERVAL ${MINUTES} MINUTE`,
    { email, address },
  )
  if (int(failed!.byEmail) >= PER_EMAIL || int(failed!.byAddress) >= PER_ADDRESS) {
    throw new ProblemError(
      429,
      'Too many attempts',
      `too many failed sign-ins: wait ${MINUTES} minutes and try again`,
    )
  }
  const [row] = await database.select<PersonRow>(`${PERSON} WHERE email = :email`, { email })
  const right = await bcrypt.compare(password, row?.passwordHash ?? NOBODY)
  if (!row || !right || !row.active) {
    await database.insert('sign_in_failure', [{ email, address }])
    throw new ProblemError(
      401,
      'Not signed in',
      'this e-mail and password do not belong together: check both',
      [{ path: 'password', message: 'e-mail or password is wrong' }],
    )
  }
  return { id: row.id, name: row.name, email: row.email, role: row.role }
}

export async function findActor(database: Handle, id: number): Promise<Actor | undefined> {
  const [row] = await database.select<PersonRow>(`${PERSON} WHERE id = :id AND active = 1`, { id })
  return row && { id: row.id, name: row.name, email: row.email, role: row.role }
}

const shown = ({ passwordHash: _, active, ...p }: PersonRow) => ({ ...p, active: Boolean(active) })

export async function listPeople(database: Handle) {
  return { items: (await database.select<PersonRow>(`${PERSON} ORDER BY name`)).map(shown) }
}

async function readPerson(database: Handle, id: number) {
  const [row] = await database.select<PersonRow>(`${PERSON} WHERE id = :id`, { id })
  if (!row) throw notFound(`person ${id}`)
  return row
}

export async function addPerson(
  database: Handle,
  by: number,
  body: { name: string; email: string; role: Role; password: string },
) {
  const [taken] = await database.select('SELECT id FROM person WHERE email = :email', { email: body.email })
  if (taken)
    throw new ProblemError(409, 'Already there', `${body.email} has an account already`, [
      { path: 'email', message: 'this e-mail has an account already' },
    ])
  const id = (
    await database.insert('person', [
      {
        name: body.name,
        email: body.email,
        role: body.role,
        password_hash: await hashPassword(body.password),
      },
    ])
  )[0]!
  await audit(database, by, 'person', body.email, null, JSON.stringify({ name: body.name, role: body.role }))
  return shown(await readPerson(database, id))
}

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
  const passwordHash = body.password ? await hashPassword(body.password) : before.passwordHash
  await database.run(
    'UPDATE person SET role = :role, active = :active, password_hash = :passwordHash WHERE id = :id',
    {
      id,
      role: body.role ?? before.role,
      active: Number(body.active ?? before.active),
      passwordHash,
    },
  )
  const after = shown(await readPerson(database, id))
  await audit(
    database,
    by.id,
    'person',
    before.email,
    JSON.stringify(shown(before)),
    JSON.stringify({ ...after, passwordChanged: Boolean(body.password) }),
  )
  return after
}

export async function changeOwnPassword(
  database: Handle,
  actor: Actor,
  body: { current: string; password: string },
): Promise<void> {
  const row = await readPerson(database, actor.id)
  if (!(await bcrypt.compare(body.current, row.passwordHash))) {
    throw new ProblemError(422, 'Wrong password', 'the current password is not right', [
      { path: 'current', message: 'the current password is not right' },
    ])
  }
  await changePerson(database, actor, actor.id, { password: body.password })
}
