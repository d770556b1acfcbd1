export * from './message'
