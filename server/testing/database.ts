import { randomUUID } from 'node:crypto'
import { join } from 'node:path'
import pg from 'pg'
import { inject } from 'vitest'
import { actorOf, forgetActors } from '../store/actor'
import { closeBus, openBus } from '../store/bus'
import { closeDatabase, database, migrateDatabase } from '../store/client'
import { insertSite } from '../store/sites'
import { upgradeDatabase } from '../store/upgrade'
import { ropewalk } from '../../standins/ropewalk/site'
import type { Documents } from '../../core/documents'

export const migrations = join(import.meta.dirname, '../store/migrations')

/** Makes an empty database in the test run's PostgreSQL and points this process at it; gives its address. */
export async function freshDatabase(): Promise<string> {
  const admin = new pg.Client({ connectionString: inject('postgresUrl') })
  await admin.connect()
  const name = `t${randomUUID().replaceAll('-', '')}`
  await admin.query(`create database ${name}`)
  await admin.end()
  const url = new URL(inject('postgresUrl'))
  url.pathname = `/${name}`
  process.env.DATABASE_URL = url.href
  return url.href
}

/** The same with its tables, and listening for what other servers tell. */
export async function openTestDatabase(): Promise<string> {
  const url = await freshDatabase()
  await migrateDatabase(migrations)
  await upgradeDatabase()
  await openBus()
  return url
}

export async function closeTestDatabase() {
  await closeBus()
  await closeDatabase()
  forgetActors()
}

/** A demo site of its own under a new key; `more` replaces documents. */
export async function demoSite(more: Documents = {}): Promise<string> {
  const id = `site-${randomUUID().slice(0, 8)}`
  await insertSite(database(), id, { ...ropewalk.documents, ...more })
  return id
}

export const documentsOf = async (site: string): Promise<Documents> => (await actorOf(site).read())!.documents

export const ann = { who: 'Ann', person: 'ann' }
export const ben = { who: 'Ben', person: 'ben' }
