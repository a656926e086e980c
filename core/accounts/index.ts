export * from './check'
export * from './fields'
export * from './groups'
export * from './limits'
