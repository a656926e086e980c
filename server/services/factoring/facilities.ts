import { z } from 'zod'
import { cell } from '../../db/rows'
import { plus } from '../../db/where'
import { facilityBody, type FacilityRow } from '../../../contract/factoring'
import type { IsoDate } from '../../../core/calendar'
import { costTogether, facilityFaults, yearlyRate, type Facility } from '../../../core/factoring'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { audit, changes, readSettings } from '../../db/settings'
import { takeLocks } from '../../ledger/locks'
import { keepRule } from '../banking/rules'
import { referenceRates } from '../reminders/rates'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'

type Body = z.output<typeof facilityBody>

const rowCells = z.object({
  id: cell.whole,
  code: cell.text,
  name: cell.text,
  iban: cell.text,
  terms: cell.text,
  closedOn: cell.text.nullable(),
  version: cell.whole,
})
type Row = z.output<typeof rowCells>

const ROWS = `SELECT id, code, name, iban, terms, closed_on AS closedOn, version FROM factor_facility`

/** A factor as the core sees it. */
export function facilityOf({ id, code, name, terms }: Pick<Row, 'id' | 'code' | 'name' | 'terms'>): Facility {
  const kept = JSON.parse(terms) as Omit<Facility, 'id' | 'code' | 'name'>
  // Terms that were kept before there were reference rates have none.
  return { ...kept, interestReference: kept.interestReference ?? null, id, code, name }
}

/** All factors, with where their money comes from, and what an advance costs on a day by their terms. */
export async function factorsOf(database: Handle, day: IsoDate): Promise<(Facility & { iban: string })[]> {
  const rows = await database.rows(rowCells, `${ROWS} ORDER BY code`)
  const rates = await referenceRates(database)
  return rows.map(row => {
    const facility = facilityOf(row)
    const interestRate = yearlyRate(facility, rates, day) ?? facility.interestRate
    return { ...facility, interestRate, iban: row.iban }
  })
}

export async function facilityByCode(database: Handle, code: string): Promise<Facility> {
  const [row] = await database.rows(rowCells, `${ROWS} WHERE code = :code`, { code })
  if (!row) throw notFound(`factor ${code}`)
  return facilityOf(row)
}

const inFacilityRow = z.object({
  customerId: cell.whole,
  base: cell.sum,
})

/** Base currency: what lies with a factor, in all and of each debtor. */
export async function inFacility(database: Handle, facilityId: number) {
  const rows = await database.rows(
    inFacilityRow,
    `SELECT t.customer_id AS customerId, SUM(ROUND(t.base * (t.amount - t.collected) / t.amount)) AS base
      FROM factor_item t JOIN factor_schedule s ON s.id = t.schedule_id
      WHERE s.facility_id = :facilityId AND t.live = 1 AND t.state IN ('sent', 'accepted') GROUP BY t.customer_id`,
    { facilityId },
  )
  const byDebtor = new Map(rows.map(r => [r.customerId, int(r.base)]))
  return { total: [...byDebtor.values()].reduce((a, b) => a + b, 0), byDebtor }
}

const balanceOfRow = z.object({
  base: cell.sum,
})

/** Base currency. */
async function balanceOf(database: Handle, account: string): Promise<number> {
  const [row] = await database.rows(
    balanceOfRow,
    'SELECT COALESCE(SUM(base_amount), 0) AS base FROM account_day WHERE account = :account',
    { account },
  )
  return int(row!.base)
}

const paidRow = z.object({
  month: cell.text,
  currency: cell.text,
  advance: cell.whole,
  days: cell.whole,
  cost: cell.whole,
})
type PaidRow = z.output<typeof paidRow>

/** So many months are told, the newest first. */
const MONTHS = 24

/** What the money of a factor cost, month by month. */
async function monthsOf(database: Handle, facilityId: number): Promise<FacilityRow['months']> {
  const rows = await database.rows(
    paidRow,
    `SELECT DATE_FORMAT(t.collected_on, '%Y-%m') AS month, s.currency, t.advance,
      GREATEST(0, COALESCE(DATEDIFF(t.collected_on, t.advanced_on), 0)) AS days, t.commission + t.interest AS cost
      FROM factor_item t JOIN factor_schedule s ON s.id = t.schedule_id
      WHERE s.facility_id = :facilityId AND t.collected_on IS NOT NULL`,
    { facilityId },
  )
  const groups = new Map<string, PaidRow[]>()
  for (const row of rows) {
    const key = `${row.month} ${row.currency}`
    groups.set(key, [...(groups.get(key) ?? []), row])
  }
  return [...groups.values()]
    .map(own => ({
      month: own[0]!.month,
      currency: own[0]!.currency,
      invoices: own.length,
      advance: own.reduce((sum, r) => sum + r.advance, 0),
      kept: own.reduce((sum, r) => sum + r.cost, 0),
      effective: costTogether(own).effective,
    }))
    .sort((a, b) => (a.month < b.month ? 1 : a.month > b.month ? -1 : 0))
    .slice(0, MONTHS)
}

async function shown(database: Handle, row: Row): Promise<FacilityRow> {
  const facility = facilityOf(row)
  const { eligible } = facility
  const { total } = await inFacility(database, row.id)
  const { today } = await readSettings(database)
  return {
    ...facility,
    currencies: [...facility.currencies],
    eligible: { ...eligible, countries: [...eligible.countries], classes: [...eligible.classes] },
    iban: row.iban,
    version: row.version,
    closedOn: row.closedOn,
    used: total,
    balance: await balanceOf(database, facility.accounts.current),
    yearlyRate: yearlyRate(facility, await referenceRates(database), today),
    months: await monthsOf(database, row.id),
  }
}

export async function listFacilities(database: Handle): Promise<{ items: FacilityRow[]; base: string }> {
  const { base } = await readSettings(database)
  const rows = await database.rows(rowCells, `${ROWS} ORDER BY closed_on IS NOT NULL, name`)
  const items: FacilityRow[] = []
  for (const row of rows) items.push(await shown(database, row))
  return { items, base }
}

/** What the ledger accounts of a factor are called where they are added. */
const ACCOUNTS = {
  current: { type: 'asset', label: 'Due from' },
  commission: { type: 'expense', label: 'Commission of' },
  interest: { type: 'expense', label: 'Interest of' },
  tax: { type: 'liability', label: 'Input tax on commission' },
} as const

/** Adds accounts that are missing. One that stands for something else, or for another factor, is refused. */
async function keepAccounts(tx: Handle, code: string, { name, accounts }: Body): Promise<void> {
  const others = (await tx.rows(rowCells, `${ROWS} WHERE code <> :code`, { code })).map(facilityOf)
  for (const [what, { type, label }] of Object.entries(ACCOUNTS)) {
    const number = accounts[what as keyof typeof ACCOUNTS]
    const path = `accounts.${what}`
    const other = others.find(o => o.accounts[what as keyof typeof ACCOUNTS] === number)
    if (other && what !== 'tax')
      throw new ProblemError(422, 'Two factors on one account', `${number} is ${other.name}'s`, [
        { path, message: `of ${other.name}`, satisfy: 'give each factor accounts of its own' },
      ])
    const [there] = await tx.find('ledger_account', { number }, { columns: ['type', 'purpose'] })
    if (there && (there.purpose !== null || there.type !== type))
      throw new ProblemError(422, 'Not for a factor', `account ${number} stands for something else`, [
        { path, message: `${number} is no free ${type} account`, satisfy: 'give another number' },
      ])
    if (there) continue
    await tx.insert('ledger_account', [
      { number, name: (what === 'tax' ? label : `${label} ${name}`).slice(0, 60), type },
    ])
    await changes(tx, 'chart')
  }
}

/** Adds a factor, or changes its terms. */
export async function keepFacility(
  database: Handle,
  actor: Actor,
  code: string,
  body: Body,
): Promise<FacilityRow> {
  const { version, iban: given, name, ...terms } = body
  const iban = given.replace(/\s/g, '').toUpperCase()
  const faults = facilityFaults({ ...terms, code, name })
  if (faults.length) throw new ProblemError(422, 'Not terms', faults[0]!.message, faults)
  await database.transaction(async tx => {
    await takeLocks(tx, { settings: 'change' })
    const [row] = await tx.rows(rowCells, `${ROWS} WHERE code = :code FOR UPDATE`, { code })
    if ((row?.version ?? 0) !== version)
      throw new ProblemError(409, 'Changed meanwhile', `the terms of ${code} were changed meanwhile`, [
        { path: 'version', message: 'not the last', satisfy: 'look at them again' },
      ])
    if (row && facilityOf(row).accounts.current !== terms.accounts.current)
      throw new ProblemError(
        409,
        'Its account stays',
        `what ${row.name} owes stands on its account already`,
        [{ path: 'accounts.current', message: 'it cannot change', satisfy: 'add another facility' }],
      )
    await keepAccounts(tx, code, body)
    const values = { code, name, iban, terms: JSON.stringify(terms), personId: actor.id }
    if (row)
      await tx.update(
        'factor_facility',
        {
          name: values.name,
          iban: values.iban,
          terms: values.terms,
          version: plus('version', 1),
          person_id: values.personId,
        },
        { code: values.code },
      )
    else
      await tx.insert('factor_facility', [
        {
          code: values.code,
          name: values.name,
          iban: values.iban,
          terms: values.terms,
          person_id: values.personId,
        },
      ])
    // Its money is proposed to its account, whichever way it goes.
    if (iban)
      for (const moneyIn of [true, false])
        await keepRule(tx, actor.id, { iban, words: '', account: terms.accounts.current, moneyIn })
    await audit(tx, actor.id, 'factoring.facility', code, row?.terms ?? null, values.terms)
  })
  const [now] = await database.rows(rowCells, `${ROWS} WHERE code = :code`, { code })
  return shown(database, now!)
}
