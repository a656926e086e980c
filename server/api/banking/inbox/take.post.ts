import { banking } from '~~/contract/banking'

export default jobRoute(banking.takeInbox, 'bank-inbox', () => ({ options: {}, upload: Buffer.alloc(0) }))
