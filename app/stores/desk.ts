import { defineStore } from 'pinia'
import { contract } from '~~/contract'
import type { Card } from '~~/contract/accounts'
import { call, problemText } from '~/utils/api'

export interface MakeUpRequest {
  title: string
  why?: string
  query: {
    asOf?: string
    known?: string
    currency?: string
    basis?: 'due' | 'document'
    by?: 'customer' | 'group' | 'class' | 'controller' | 'sales' | 'currency' | 'country'
    within?: 'customer' | 'group' | 'class' | 'controller' | 'sales' | 'currency' | 'country'
    key?: string
    withinKey?: string
    buckets?: string
    bucket?: '0' | '1' | '2' | '3' | '4' | '5' | 'onAccount' | 'overdue' | 'all'
    search?: string
    class?: string
    country?: string
    ours?: '1'
    controller?: string
  }
}
export interface Said {
  text: string
  to?: string
  action?: string
  bad?: boolean
}

/** What lies on the desk beside the sheet: the Card, the Make-up drawer, the word said after a posting. */
export const useDesk = defineStore('desk', {
  state: () => ({
    customer: null as string | null,
    card: null as Card | null,
    cardTrouble: '',
    cardOpen: true,
    /** Where there is no room beside the sheet: whether the Card lies over it. */
    cardDrawn: false,
    railFolded: false,
    makeUp: null as MakeUpRequest | null,
    tieOut: null as string | null,
    said: null as Said | null,
    keysShown: false,
    /** What goes out when Enter is pressed: see SendStrip. */
    sending: null as 'statement' | 'copy' | 'message' | null,
    /** The item that the cursor is on, on screens that list items. */
    item: null as { id: number; number: string; customer: string; isReceipt: boolean } | null,
    unread: { messages: 0, tasks: 0, mail: 0 },
    /** Why the counts are of before; empty when they are of now. */
    unreadTrouble: '',
  }),
  actions: {
    /** Chooses the customer of the Card; asked again when something changed. */
    async choose(number: string | null, again = false): Promise<void> {
      if (number === this.customer && this.card && !again) return
      this.customer = number
      if (!number) {
        this.card = null
        return
      }
      await new Promise(resolve => setTimeout(resolve, again ? 0 : 140))
      if (this.customer !== number) return
      try {
        const card = await call(contract.accounts.card, { params: { number } })
        if (this.customer === number) {
          this.card = card
          this.cardTrouble = ''
        }
      } catch (error) {
        this.card = null
        this.cardTrouble = problemText(error)
      }
    },
    refresh(): Promise<void> {
      return this.choose(this.customer, true)
    },
    async countUnread(): Promise<void> {
      try {
        this.unread = await call(contract.messages.unread)
        this.unreadTrouble = ''
      } catch (error) {
        this.unreadTrouble = problemText(error)
      }
    },
    say(said: Said): void {
      this.said = said
    },
  },
})
