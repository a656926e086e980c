import { people } from '~~/contract/people'

export default endpoint(people.signOut, async ({ event }) => {
  await (await session(event)).clear()
})
