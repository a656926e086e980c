/** Who is above whom: the id of the customer that one stands under; null, or not there, for none. */
export type Parents = ReadonlyMap<number, number | null>

/**
 * Whether a customer may stand under another: not under itself, and not under one that stands under it.
 * Answers the way round when it would be a circle.
 */
export function circle(parents: Parents, customer: number, parent: number): number[] | null {
  const above = [parent, ...headsOver(parents, parent)]
  const at = above.indexOf(customer)
  return at < 0 ? null : [customer, ...above.slice(0, at + 1)]
}

/** Whoever stands over a customer, from the nearest to the topmost. Throws when that is a circle already. */
function headsOver(parents: Parents, customer: number): number[] {
  const way: number[] = []
  for (let above = parents.get(customer) ?? null; above !== null; above = parents.get(above) ?? null) {
    if (above === customer || way.includes(above)) throw new Error(`the group of ${customer} is a circle`)
    way.push(above)
  }
  return way
}

/** The topmost of the group of a customer; itself without one. */
export const headIn = (parents: Parents, customer: number): number =>
  headsOver(parents, customer).at(-1) ?? customer
