import { createHash } from 'node:crypto'
import { canonical } from '../../core/units'

/** SHA-256 of a text, as 64 hexadecimal digits. */
export const hashOfText = (text: string): string => createHash('sha256').update(text).digest('hex')

/** Hash of a content, the same whatever the order of its keys. */
export const hashOf = (content: unknown): string => hashOfText(canonical(content))
