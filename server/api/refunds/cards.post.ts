import { refunds } from '~~/contract/refunds'
import { payByCard } from '~~/server/services/refunds/cards'
import { cardTerminal } from '~~/server/wiring'

export default endpoint(refunds.cards, ({ database, actor }) => payByCard(database, actor, cardTerminal()))
