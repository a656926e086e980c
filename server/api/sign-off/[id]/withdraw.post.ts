import { signOff } from '~~/contract/signOff'
import { withdraw } from '~~/server/ledger/waiting'

export default endpoint(signOff.withdraw, async ({ database, actor, params }) => {
  await withdraw(database, actor, params.id)
  return { id: params.id }
})
