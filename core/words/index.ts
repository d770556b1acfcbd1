export * from './english'
export * from './message'
