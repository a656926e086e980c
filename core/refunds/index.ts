export * from './refund'
export * from './lapse'
export * from './cheque'
