import { sql } from 'drizzle-orm'
import { allOf, currentVersion, type Documents } from '../../core/documents'
import type { Snapshot } from '../../core/rig'
import { base64Pieces } from './backup'
import { database } from './client'
import { readContents } from './contents'
import { openSite } from './sites'

/** What is of this place and moment, or only a backup keeps. */
const without = 'The history, the log, links to devices and temporary states: a backup of the site holds them.'
const contentsAtOnce = 20

/** Members of an object as JSON text, with a comma before all but the first. */
async function* members(all: AsyncIterable<[string, unknown]> | Iterable<[string, unknown]>) {
  let comma = ''
  for await (const [key, value] of all) {
    yield `${comma}${JSON.stringify(key)}:${JSON.stringify(value)}`
    comma = ','
  }
}

async function* contentsOf(documents: Documents): AsyncGenerator<[string, unknown]> {
  const wanted = [...new Set(allOf(documents, 'take').flatMap(t => t.snapshot ?? []))]
  const capabilities = new Set<string>()
  const batches = function* (hashes: readonly string[]) {
    for (let at = 0; at < hashes.length; at += contentsAtOnce) yield hashes.slice(at, at + contentsAtOnce)
  }
  for (const batch of batches(wanted)) {
    const found = await readContents(batch)
    for (const content of Object.values(found))
      for (const { capability } of Object.values((content as Snapshot).devices)) capabilities.add(capability)
    yield* Object.entries(found)
  }
  for (const batch of batches([...capabilities])) yield* Object.entries(await readContents(batch))
}

async function* textOf(site: string, documents: Documents) {
  const kept = Object.entries(documents).filter(([key]) => !/^(link|housekeeping)\//.test(key))
  yield `{"format":"kovrin-site","version":${currentVersion},"without":${JSON.stringify(without)},"documents":{`
  yield* members(kept)
  yield '},"contents":{'
  yield* members(contentsOf(documents))
  yield '},"data":{'
  const { rows } = await database().execute<{ id: string, bytes: number }>(
    sql`select id, length(data) as bytes from take_data where site_id = ${site}`)
  const takes = rows.filter(r => documents[`take/${r.id}`] !== undefined)
  for (const [k, { id, bytes }] of takes.entries()) {
    yield `${k ? ',' : ''}${JSON.stringify(id)}:"`
    yield* base64Pieces(database(), site, id, bytes)
    yield '"'
  }
  yield '}}'
}

/** A site as one file to carry (docs/formats.md), piece by piece; null where there is none of that name. */
export async function siteFileOf(id: string): Promise<AsyncGenerator<string> | null> {
  const site = await openSite(id)
  return site && textOf(id, site.documents)
}
