export * from './findings'
