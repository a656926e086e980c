export * from './days'
export * from './bank'
export * from './terms'
