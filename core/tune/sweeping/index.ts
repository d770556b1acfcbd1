export * from './level'
export * from './round'
