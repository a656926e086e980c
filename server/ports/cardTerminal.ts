/** Money to give back to a card. */
export interface CardRefund {
  /** Ours: the same one asked again is the same refund, and is answered as before. */
  key: string
  /** Of the card payment, as the terminal printed it on its slip. */
  reference: string
  /** Minor units. */
  amount: number
  currency: string
}

/** Either the number of the terminal's slip, or why it does not pay, by a reason code of ISO 20022. */
export type CardAnswer = { taken: true; slip: string } | { taken: false; code: string; text: string }

/** The card terminal, or the service behind it. Rejects when it cannot be reached. */
export interface CardTerminal {
  refund: (asked: CardRefund) => Promise<CardAnswer>
}
