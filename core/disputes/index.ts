export * from './deductions'
export * from './dispute'
export * from './resolve'
