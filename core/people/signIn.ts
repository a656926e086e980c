/*
 * How wrong passwords are slowed down. Counted are a name from a network, a name from anywhere, and a network
 * whatever the name; each lets some tries through and then asks for a pause that doubles (common practice;
 * OWASP ASVS 5.0, 6.3.1: without letting a stranger lock somebody out). No count closes a door for good.
 */

export interface SignInLimit {
  /** So many tries pass without a pause. */
  free: number
  /** Longest pause, seconds. */
  longest: number
}

export const SIGN_IN_LIMITS = {
  pair: { free: 5, longest: 900 },
  name: { free: 20, longest: 60 },
  network: { free: 50, longest: 60 },
} as const satisfies Record<string, SignInLimit>

/**
 * Seconds until the next try may pass, after so many wrong ones. Example: with 5 free, the fifth asks for 1
 * second, the sixth for 2, the ninth for 16.
 */
export function pauseAfter(tries: number, { free, longest }: SignInLimit): number {
  return tries < free ? 0 : Math.min(longest, 2 ** Math.min(30, tries - free))
}
