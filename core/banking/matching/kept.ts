/** A bank keeps no more than this for itself of what it sends back, minor units. Ours. */
export const MOST_KEPT = 5000
