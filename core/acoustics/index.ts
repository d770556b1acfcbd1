export * from './air'
export * from './room'
