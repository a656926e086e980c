export * from './documents'
export * from './rows'
