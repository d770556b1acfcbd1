export * from './types'
export * from './convert'
export * from './parse'
