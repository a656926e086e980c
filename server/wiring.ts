import { join } from 'node:path'
import { answerLetters } from '../simulators/answers'
import { simulatedTerminal } from '../simulators/cardTerminal'
import { deliverUpTo, hasBank, planPayments } from '../simulators/bank'
import { factorDay } from '../simulators/factor'
import { invoicedTo } from '../simulators/invoicing'
import { receivedMessage } from '../simulators/mailbox'
import { simulatedRates } from '../simulators/rates'
import { folderInbox, type BankInbox } from './ports/bankInbox'
import { folderOutbox, type BankOutbox } from './ports/bankOutbox'
import type { CardTerminal } from './ports/cardTerminal'
import { calendarDays, type PassingDays } from './ports/clock'
import { imapMail } from './ports/imap'
import { smtpMail, type MailPort, type ReceivedMail } from './ports/mail'
import { maildir, type Answerable, type MailIn } from './ports/mailIn'
import { folderFactor, type FactorPort } from './ports/factor'
import type { RateSource } from './ports/rates'

/*
 * What stands behind each port, by the environment: the real form, or the simulation that ships with us. The
 * only place of the server that knows the simulators.
 */

export const dataFolder = () => process.env.BILANCIO_DATA ?? 'var'

/** Where the bank leaves its files: a folder that a file service fills, or that of the simulated bank. */
export const bankFolder = () => process.env.BILANCIO_BANK ?? join(dataFolder(), 'bank')

export const bankInbox = (): BankInbox => folderInbox(bankFolder())

/** Where files of payments are left for the bank. */
export const bankOutbox = (): BankOutbox => folderOutbox(bankFolder())

/** Ships as a simulation only: terminals speak protocols of their makers. */
export const cardTerminal = (): CardTerminal => simulatedTerminal(join(dataFolder(), 'card-terminal'))

/** Where files to and from factors lie. */
export const factorFolder = () => process.env.BILANCIO_FACTOR ?? join(dataFolder(), 'factor')
export const factorPort = (): FactorPort => folderFactor(factorFolder())

/** Only the simulated bank must be told that a day is over. */
export function passingDays(): PassingDays {
  const folder = bankFolder()
  if (process.env.BILANCIO_BANK || !hasBank(folder)) return calendarDays
  return {
    dayPassed: (day, deposits) => deliverUpTo(folder, day, deposits),
    factored: (day, factors) => {
      for (const factor of factors) planPayments(folder, factor, factorDay(factorFolder(), day, factor))
    },
    invoiced: (day, after) => invoicedTo(folder, day, after),
  }
}

/** Null: no mail server is known, letters wait. */
export function mailPort(): MailPort | null {
  const url = process.env.BILANCIO_SMTP
  return url ? smtpMail({ url, ca: process.env.BILANCIO_SMTP_CA }) : null
}

/** Where the simulated mailbox keeps its messages. */
export const mailboxFolder = () => join(dataFolder(), 'mailbox')

/**
 * A message as the simulated mailbox received it; undefined for a real mail server, which we cannot look
 * into.
 */
export const receivedMail = (messageId: string): Promise<ReceivedMail | undefined> =>
  receivedMessage(mailboxFolder(), messageId)

/** A Maildir that a mail server fills, or that of the simulated customers. */
export const mailFolder = () => process.env.BILANCIO_MAILDIR ?? join(dataFolder(), 'mail')

/** Where mail to us arrives: a mailbox on a server, or a folder. */
export function mailIn(): MailIn {
  const url = process.env.BILANCIO_IMAP
  return url ? imapMail({ url, ca: process.env.BILANCIO_IMAP_CA }) : maildir(mailFolder())
}

/** The simulated customers answer letters of a day that is over; real ones do it by themselves. */
export const answersTo = async (day: string, letters: readonly Answerable[]): Promise<number> =>
  process.env.BILANCIO_MAILDIR || process.env.BILANCIO_IMAP ? 0 : answerLetters(mailFolder(), day, letters)

/** Rates of the demo only: no invented rate reaches real books. */
export const rateSource = (demo: boolean): RateSource | null => (demo ? simulatedRates : null)
