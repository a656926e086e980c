/**
 * What a customer has, in SQL over `customer c LEFT JOIN customer_class k`: its own, or where that is empty
 * what its class says. The one place where the rule stands; a customer without a class pays net in 30 days.
 */
export const INHERITED = {
  terms: `COALESCE(NULLIF(c.terms, ''), k.terms, 'net 30')`,
  method: `COALESCE(NULLIF(c.method, ''), k.method, 'transfer')`,
  policy: `COALESCE(NULLIF(c.policy, ''), k.policy, 'standard')`,
  riskClass: `COALESCE(NULLIF(c.risk_class, ''), k.risk_class, '')`,
  statementCycle: `COALESCE(NULLIF(c.statement_cycle, ''), k.statement_cycle, 'none')`,
  refunds: `COALESCE(NULLIF(c.refunds, ''), k.refunds, 'yes')`,
} as const

/** The class of a customer, for `INHERITED`. */
export const WITH_CLASS = 'LEFT JOIN customer_class k ON k.code = c.class'
