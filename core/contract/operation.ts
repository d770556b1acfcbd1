import type * as v from 'valibot'

/** Bytes instead of JSON: their media type, and what they are. */
export interface Bytes {
  media: string
  about: string
}
export const bytes = (media: string, about: string): Bytes => ({ media, about })

export interface Operation {
  method: 'get' | 'post' | 'put' | 'delete'
  path: string
  tag: 'sites' | 'changes' | 'devices' | 'takes' | 'analysis' | 'server' | 'backups'
  summary: string
  query?: v.GenericSchema
  body?: v.GenericSchema | Bytes
  answer: v.GenericSchema | Bytes
  /** Status of success, when it is not 200. */
  status?: number
  /** What each refusal means. */
  errors?: Record<number, string>
}

export const noSite = { 404: 'There is no such site' }
