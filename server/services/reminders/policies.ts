import { z } from 'zod'
import { cell } from '../../db/rows'
import { plus } from '../../db/where'
import type { IsoDate } from '../../../core/calendar'
import { policyRefusals, type Policy } from '../../../core/reminders'
import { policyTerms, type PolicyForm, type reminders as operations } from '../../../contract/reminders'
import type { Handle } from '../../db/handle'
import { audit, readSettings } from '../../db/settings'
import { fillText, type LetterValues } from '../../letters/text'
import { notFound, ProblemError } from '../common/problems'

const versionRow = z.object({
  code: cell.text,
  name: cell.text,
  version: cell.whole,
  validFrom: cell.text,
  form: cell.text,
})
type VersionRow = z.output<typeof versionRow>

const parsed = ({ form, ...row }: VersionRow): PolicyForm => ({
  ...row,
  ...policyTerms.parse(JSON.parse(form)),
})

/** The versions of policies that hold on a day: of each the newest that began by then. */
const ON_DAY = `SELECT p.code, p.name, p.version, v.valid_from AS validFrom, v.form FROM reminder_policy p
  JOIN reminder_policy_version v ON v.id = (SELECT w.id FROM reminder_policy_version w
    WHERE w.code = p.code AND w.valid_from <= :day ORDER BY w.valid_from DESC, w.id DESC LIMIT 1)`

/** Policies as they hold on a day, by code. */
export async function policiesOn(database: Handle, day: IsoDate): Promise<Map<string, PolicyForm>> {
  const rows = await database.rows(versionRow, `${ON_DAY} ORDER BY p.code`, { day })
  return new Map(rows.map(r => [r.code, parsed(r)]))
}

const listPoliciesRow = z.object({
  code: cell.text,
  validFrom: cell.text,
  by: cell.text,
})

export async function listPolicies(database: Handle) {
  const { today } = await readSettings(database)
  const [held, coming] = await Promise.all([
    policiesOn(database, today),
    database.rows(
      listPoliciesRow,
      `SELECT v.code, v.valid_from AS validFrom, p.name AS \`by\` FROM reminder_policy_version v
        JOIN person p ON p.id = v.person_id WHERE v.valid_from > :today ORDER BY v.valid_from, v.id`,
      { today },
    ),
  ])
  return { items: [...held.values()], coming }
}

/** A policy as it holds on a day. */
export async function policyOn(database: Handle, code: string, day: IsoDate): Promise<PolicyForm> {
  const [row] = await database.rows(versionRow, `${ON_DAY} WHERE p.code = :code`, { code, day })
  if (!row) throw notFound(`reminder policy ${code}`, 'choose one of Setup, Reminders')
  return parsed(row)
}

/** What the computation needs of a policy. */
export const termsOf = ({ name: _, version: __, ...policy }: PolicyForm): Policy => policy

const SAMPLE: LetterValues = {
  company: 'Sample',
  customer: 'Sample',
  contact: 'Sample',
  number: 'N-1',
  level: 1,
  total: 'EUR 1.00',
  fee: 'EUR 1.00',
  has_fee: true,
  interest: 'EUR 1.00',
  has_interest: true,
  date: '1 Jan 2026',
  deadline: '8 Jan 2026',
  items: 1,
}

/** Texts that cannot be filled are told before they are kept. */
async function requireTexts(levels: PolicyForm['levels']): Promise<void> {
  for (const [i, level] of levels.entries())
    for (const [language, text] of Object.entries(level.texts)) {
      const message = await fillText(text, SAMPLE).then(
        () => null,
        (error: Error) => error.message,
      )
      if (message !== null)
        throw new ProblemError(422, 'Text cannot be filled', `level ${i + 1}, ${language}: ${message}`, [
          { path: `levels.${i}.texts.${language}`, message },
        ])
    }
}

/**
 * Keeps a version of a policy that holds from a day on, today unless said. The days before keep theirs, so
 * that past runs stay explained. Refused when somebody changed the policy meanwhile.
 */
export async function changePolicy(
  database: Handle,
  personId: number,
  code: string,
  body: z.input<NonNullable<(typeof operations.changePolicy)['body']>>,
): Promise<PolicyForm> {
  const { today } = await readSettings(database)
  const { name, version, validFrom = today, ...terms } = body
  const form = policyTerms.parse(terms)
  const faults = policyRefusals(form).map(({ path, message, satisfy }) => ({ path, message, satisfy }))
  if (validFrom < today)
    faults.push({
      path: 'validFrom',
      message: `${validFrom} is over: its runs are explained by the version of then`,
      satisfy: `${today} or later`,
    })
  if (faults.length) {
    const [first] = faults
    throw new ProblemError(422, 'Not a policy', `${first!.message}: ${first!.satisfy}`, faults)
  }
  await requireTexts(form.levels)
  await database.transaction(async tx => {
    const [row] = await tx.find('reminder_policy', { code }, { columns: ['version'], lock: true })
    if ((row?.version ?? 0) !== version)
      throw new ProblemError(
        409,
        'Changed meanwhile',
        'someone else changed this policy: reload it and make your change again',
      )
    const before = row ? await policyOn(tx, code, validFrom).catch(() => null) : null
    if (row) await tx.update('reminder_policy', { name, version: plus('version', 1) }, { code })
    else await tx.insert('reminder_policy', [{ code, name }])
    await tx.insert('reminder_policy_version', [
      { code, valid_from: validFrom, form: JSON.stringify(form), person_id: personId },
    ])
    await audit(
      tx,
      personId,
      'policy',
      code,
      before && JSON.stringify(before.levels),
      JSON.stringify({ validFrom, ...form }),
    )
  })
  return policyOn(database, code, validFrom)
}
