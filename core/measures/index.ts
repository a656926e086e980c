export * from './countBack'
export * from './ingredients'
export * from './items'
export * from './table'
