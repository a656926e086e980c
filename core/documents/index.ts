export * from './documents'
