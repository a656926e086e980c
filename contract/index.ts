import { accounts } from './accounts'
import { aging } from './aging'
import { attachments } from './attachments'
import { allowance } from './allowance'
import { impairment } from './impairment'
import { batches } from './receipts/batches'
import { banking } from './banking'
import { books } from './books'
import { imports } from './documents'
import { callList } from './callList'
import { collections, mandates } from './collections'
import { disputes } from './disputes'
import { exposure } from './exposure'
import { factoring } from './factoring'
import { forecast } from './forecast'
import { inbox } from './inbox'
import { letters } from './letters'
import { measures } from './measures'
import { messages } from './messages'
import type { Operation } from './operation'
import { payments } from './payments'
import { promises } from './promises'
import { people } from './people'
import { receipts } from './receipts'
import { outbox } from './outbox'
import { reminders } from './reminders'
import { handovers } from './reminders/handover'
import { rates } from './rates'
import { refunds } from './refunds'
import { review } from './review'
import { setup } from './setup'
import { signOff } from './signOff'
import { today } from './today'
import { views } from './views'
import { watch } from './health'

export const contract = {
  today,
  setup,
  rates,
  people,
  accounts,
  aging,
  exposure,
  callList,
  promises,
  letters,
  messages,
  inbox,
  attachments,
  impairment,
  allowance,
  factoring,
  forecast,
  disputes,
  measures,
  review,
  receipts,
  reminders,
  handovers,
  outbox,
  refunds,
  payments,
  mandates,
  collections,
  batches,
  banking,
  books,
  signOff,
  imports,
  views,
  watch,
}

export const operations: Operation[] = Object.values(contract).flatMap(
  group => Object.values(group) as Operation[],
)
