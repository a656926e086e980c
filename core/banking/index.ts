export * from './lines'
export * from './slips'
export * from './decide'
export * from './opening'
