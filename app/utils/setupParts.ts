import type { Ability } from '~~/core/people'

/** The parts of Setup: what each changes, in a sentence, and the words it is found by. */
export interface SetupPart {
  key: string
  title: string
  what: string
  words: string
  needs: Ability
}

export const SETUP_PARTS: readonly SetupPart[] = [
  {
    key: 'company',
    title: 'Company',
    what: 'Name, address, tax number, bank account and logo: what every letter carries.',
    words: 'company name address vat tax logo time zone base currency iban letterhead',
    needs: 'read',
  },
  {
    key: 'aging',
    title: 'Aging',
    what: 'Where the ages of open items begin and end, and the overdue balance to stay under.',
    words: 'aging buckets ages days target overdue',
    needs: 'read',
  },
  {
    key: 'credit',
    title: 'Credit',
    what: 'When accounts are held, and from which amounts a second person signs.',
    words: 'credit holds hold rules limit sign-off thresholds second person exposure',
    needs: 'read',
  },
  {
    key: 'measures',
    title: 'Measures',
    what: 'What the team aims at: days of sales outstanding, shares overdue, effectiveness.',
    words: 'measures targets dso delinquent effectiveness goals',
    needs: 'read',
  },
  {
    key: 'classes',
    title: 'Classes',
    what: 'What the customers of a class have in common, until one says otherwise.',
    words: 'classes customer class terms method risk statements refunds limit',
    needs: 'read',
  },
  {
    key: 'cash',
    title: 'Cash',
    what: 'Discounts taken late, part payments, small differences, and which bank lines need no look.',
    words: 'cash receipts discount grace tolerance difference part payment matching automatic cost',
    needs: 'read',
  },
  {
    key: 'bank',
    title: 'Bank',
    what: 'Our accounts at banks with their ledger accounts, and where lines of nobody’s go.',
    words: 'bank accounts iban rules charges interest csv columns',
    needs: 'books.read',
  },
  {
    key: 'payments',
    title: 'Payments',
    what: 'Refunds and direct debits: identifier, files, notice, what follows a return, unclaimed credits.',
    words:
      'payments refunds direct debit creditor identifier mandate notice return cheque unclaimed pain sepa',
    needs: 'read',
  },
  {
    key: 'impairment',
    title: 'Bad debts',
    what: 'Small balances, when the tax of a lost debt may be claimed back, and what is set aside.',
    words: 'bad debts write off small balances tax relief insolvency country',
    needs: 'read',
  },
  {
    key: 'reminders',
    title: 'Reminders',
    what: 'Levels, days, fees, minimums and the texts of reminders.',
    words: 'reminders dunning policy levels fees texts letters',
    needs: 'read',
  },
  {
    key: 'books',
    title: 'Books',
    what: 'Up to which day the books are closed; the chart of accounts and the number series.',
    words: 'books close period chart accounts number series',
    needs: 'read',
  },
  {
    key: 'people',
    title: 'People',
    what: 'Who works here, and what each may do.',
    words: 'people persons roles rights password',
    needs: 'people.edit',
  },
  {
    key: 'access',
    title: 'Access',
    what: 'How long a sign-in lasts, by which names we are reached, which proxies are believed.',
    words: 'access session timeout host proxy',
    needs: 'people.edit',
  },
  {
    key: 'you',
    title: 'You',
    what: 'Your own password, and where you are signed in.',
    words: 'you password sessions sign out devices',
    needs: 'read',
  },
  {
    key: 'history',
    title: 'History',
    what: 'Every change of these settings: who, when, from what to what.',
    words: 'history changes settings who when audit',
    needs: 'audit.read',
  },
]
