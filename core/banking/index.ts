export * from './lines'
export * from './slips'
