import * as v from 'valibot'
import { options, type PartsId } from '../../core/contract/analysis'

/** A request that is not understood, in words: the caller's mistake, before anything is analysed. */
export class NotUnderstood extends Error {}

/** A file of a form. */
export interface Part {
  name: string
  bytes: Uint8Array
}
const longestOptions = 1024 * 1024

async function partsOf(bytes: Uint8Array, type: string): Promise<[string, Blob][]> {
  if (!/^multipart\/form-data\s*;/i.test(type)) {
    throw new NotUnderstood('The body must be multipart/form-data: one WAV part for each source, and a part options '
      + 'with JSON.')
  }
  try {
    const form = await new Response(new Uint8Array(bytes), { headers: { 'content-type': type } }).formData()
    return [...form.entries()].map(([name, part]) => [name, typeof part === 'string' ? new Blob([part]) : part])
  }
  catch { throw new NotUnderstood('The form is damaged: its parts cannot be told apart.') }
}

async function optionsIn<K extends PartsId>(what: K, parts: readonly [string, Blob][]) {
  const own = parts.filter(([name]) => name === 'options')
  if (own.length !== 1 || own[0]![1].size > longestOptions)
    throw new NotUnderstood('There must be one part options, with JSON.')
  let wish: unknown
  try {
    wish = JSON.parse(await own[0]![1].text())
  }
  catch { throw new NotUnderstood('The part options is not JSON.') }
  const read = v.safeParse(options[what], wish)
  if (read.success) return read.output as v.InferOutput<(typeof options)[K]>
  const faults = read.issues.map(i => `${v.getDotPath(i) ?? 'options'}: ${i.message}`).join('; ')
  throw new NotUnderstood(`The request is not understood: ${faults}.`)
}

/** The files and the options of a form. Throws NotUnderstood with what is wrong with it. */
export async function readForm<K extends PartsId>(what: K, bytes: Uint8Array, type: string) {
  const parts = await partsOf(bytes, type)
  const asked = await optionsIn(what, parts)
  const files = parts.filter(([name]) => name !== 'options')
  const twice = files.find(([name], k) => files.findIndex(([n]) => n === name) !== k)
  if (twice) throw new NotUnderstood(`There are two parts named “${twice[0].slice(0, 80)}”.`)
  const read = await Promise.all(files.map(async ([name, blob]): Promise<Part> =>
    ({ name, bytes: new Uint8Array(await blob.arrayBuffer()) })))
  return { files: read, options: asked }
}
