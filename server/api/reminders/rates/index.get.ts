import { reminders } from '~~/contract/reminders'
import { referenceRates } from '~~/server/services/reminders/rates'

export default endpoint(reminders.rates, async ({ database }) => ({ items: await referenceRates(database) }))
