export * from './http'
export * from './openapi'
export * from './site'
export * from './workers'
