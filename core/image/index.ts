export * from './columns'
export * from './customers'
export * from './ledger'
export * from './open'
