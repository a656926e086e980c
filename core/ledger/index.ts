export * from './types'
export * from './rules'
export * from './state'
