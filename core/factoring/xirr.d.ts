/** Ships without types of its own. */
declare module 'xirr' {
  export default function xirr(
    transactions: readonly { amount: number; when: Date }[],
    options?: { guess?: number },
  ): number
}
