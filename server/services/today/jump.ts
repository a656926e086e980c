import { z } from 'zod'
import { cell } from '../../db/rows'
import { ITEM_KINDS } from '../../../core/ledger'
import { isMoney, KINDS } from '../../../core/ledger'
import { minorDigits, parseAmount } from '../../../core/money'
import { can } from '../../../core/people'
import type { JumpHit } from '../../../contract/today'
import type { Handle } from '../../db/handle'
import { like } from '../common/paging'
import { scopeOf, type Actor } from '../people/scope'

const jumpRow = z.object({
  number: cell.text,
  name: cell.text,
  country: cell.text,
  currency: cell.text,
})

const jumpItemRow = z.object({
  id: cell.whole,
  number: cell.text,
  kind: z.enum(ITEM_KINDS),
  customer: cell.text,
  name: cell.text,
})

const jumpReceiptMeansRow = z.object({
  id: cell.whole,
  number: cell.text,
  reference: cell.text,
  name: cell.text,
})

export async function jump(database: Handle, q: string, actor: Actor): Promise<{ items: JumpHit[] }> {
  const scope = scopeOf(actor)
  const own = scope.salesId ? 'AND c.sales_id = :salesId' : ''
  const compact = q.replace(/\s/g, '')
  const values = {
    like: like(q),
    starts: like(q).slice(1),
    iban: like(compact.toUpperCase()),
    salesId: scope.salesId ?? 0,
  }
  const account = (number: string) => `/accounts/${encodeURIComponent(number)}`
  const [customers, items, references, amounts] = await Promise.all([
    database.rows(
      jumpRow,
      `
      SELECT c.number, c.name, c.country, c.currency FROM customer c WHERE (c.name LIKE :like
        OR c.number LIKE :starts ${/^[A-Za-z]{2}\d{2}/.test(compact) ? 'OR c.iban LIKE :iban' : ''}) ${own}
        ORDER BY c.name LIKE :starts DESC, c.name LIMIT 8`,
      values,
    ),
    database.rows(
      jumpItemRow,
      `
      SELECT i.id, i.number, i.kind, c.number AS customer, c.name FROM item i
        JOIN customer c ON c.id = i.customer_id WHERE i.number LIKE :starts AND i.part = 1 ${own}
        ORDER BY i.id DESC LIMIT 6`,
      values,
    ),
    database.rows(
      jumpReceiptMeansRow,
      `
      SELECT i.id, i.number, m.reference, c.name FROM receipt_means m JOIN item i ON i.id = m.item_id
        JOIN customer c ON c.id = i.customer_id WHERE m.reference LIKE :starts ${own} ORDER BY i.id DESC
        LIMIT 6`,
      values,
    ),
    byAmount(database, q, own, values.salesId),
  ])
  const receipt = (id: number, customer: string) =>
    can(actor.role, 'books.read') ? `/receipts/${id}` : account(customer)
  return {
    items: [
      ...customers.map((c): JumpHit => ({
        kind: 'customer',
        title: c.name,
        detail: `${c.number} · ${c.country} · ${c.currency}`,
        to: account(c.number),
      })),
      ...items.map((i): JumpHit =>
        isMoney(i.kind)
          ? { kind: 'receipt', title: i.number, detail: i.name, to: receipt(i.id, i.customer) }
          : {
              kind: 'document',
              title: i.number,
              detail: `${KINDS[i.kind].label}, ${i.name}`,
              to: `${account(i.customer)}?state=all&find=${encodeURIComponent(i.number)}`,
            },
      ),
      ...references.map((r): JumpHit => ({
        kind: 'receipt',
        title: r.reference,
        detail: `${r.number}, ${r.name}`,
        to: receipt(r.id, ''),
      })),
      ...amounts,
    ],
  }
}

const byAmountRow = z.object({
  id: cell.whole,
  number: cell.text,
  kind: z.enum(ITEM_KINDS),
  amount: cell.whole,
  currency: cell.text,
  customer: cell.text,
  name: cell.text,
})

async function byAmount(database: Handle, q: string, own: string, salesId: number): Promise<JumpHit[]> {
  const text = q.replace(/[ ,']/g, '')
  if (!/^\d+(\.\d{1,3})?$/.test(text)) return []
  const candidates = [
    ...new Set(
      ['EUR', 'JPY', 'KWD'].flatMap(c => {
        try {
          return [parseAmount(text, c)]
        } catch {
          return []
        }
      }),
    ),
  ]
  if (!candidates.length) return []
  const rows = await database.rows(
    byAmountRow,
    `
    SELECT i.id, i.number, i.kind, i.amount, i.currency, c.number AS customer, c.name FROM item i
      JOIN customer c ON c.id = i.customer_id WHERE i.amount IN (:candidates) ${own} ORDER BY i.id DESC
      LIMIT 20`,
    { candidates, salesId },
  )
  return rows
    .filter(r => r.amount === Math.round(Number(text) * 10 ** minorDigits(r.currency)))
    .slice(0, 6)
    .map(r => ({
      kind: isMoney(r.kind) ? 'receipt' : 'document',
      title: `${r.number} for ${text} ${r.currency}`,
      detail: `${KINDS[r.kind].label}, ${r.name}`,
      to: isMoney(r.kind)
        ? `/receipts/${r.id}`
        : `/accounts/${encodeURIComponent(r.customer)}?state=all&find=${encodeURIComponent(r.number)}`,
    }))
}
