export * from './accrue'
export * from './dayCount'
export * from './rates'
