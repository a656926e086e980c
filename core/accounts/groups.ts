/** Who is above whom: the id of the head that a customer stands under, null for none. */
export type Parents = ReadonlyMap<number, number | null>

/**
 * Whether a customer may stand under another: not under itself, and not under one that stands under it.
 * Answers the way round when it would be a circle.
 */
export function circle(parents: Parents, customer: number, parent: number): number[] | null {
  const way = [customer]
  for (let above: number | null = parent; above !== null; above = parents.get(above) ?? null) {
    way.push(above)
    if (above === customer) return way
    if (way.length > parents.size + 1) throw new Error(`the group of ${parent} is a circle already`)
  }
  return null
}

/** The topmost of the group of a customer; itself without one. */
export function headIn(parents: Parents, customer: number): number {
  let head = customer
  for (let steps = 0; steps <= parents.size; steps++) {
    const above = parents.get(head) ?? null
    if (above === null) return head
    head = above
  }
  throw new Error(`the group of ${customer} is a circle`)
}
