import {
  bigserial,
  boolean,
  customType,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  timestamp,
} from 'drizzle-orm/pg-core'
import type { Change } from '../../core/documents'
import type { Message } from '../../core/words'

const bytes = customType<{ data: Buffer }>({ dataType: () => 'bytea' })
const now = (name: string) => timestamp(name, { withTimezone: true }).notNull().defaultNow()

/** `number` is that of the newest change: every change of a site has the next one. */
export const sites = pgTable('sites', {
  id: text('id').primaryKey(),
  number: integer('number').notNull().default(0),
  version: integer('version').notNull(),
  createdAt: now('created_at'),
  touchedAt: now('touched_at'),
})

const siteId = () =>
  text('site_id')
    .notNull()
    .references(() => sites.id, { onDelete: 'cascade' })

/** Everything that a site consists of, as it is now; kinds and schemas stand in core/documents. */
export const documents = pgTable(
  'documents',
  { siteId: siteId(), key: text('key').notNull(), content: jsonb('content').notNull() },
  t => [primaryKey({ columns: [t.siteId, t.key] })],
)

/**
 * Whether a person can take a change back: done, undone (and can be made again), gone (out of reach), none
 * (never could).
 */
export const undoStates = ['done', 'undone', 'gone', 'none'] as const
export type UndoState = typeof undoStates[number]

/** Every change of every document, for ever, in the order of its number: history, events and undo in one. */
export const changes = pgTable(
  'changes',
  {
    siteId: siteId(),
    number: integer('number').notNull(),
    document: text('document').notNull(),
    path: text('path').notNull(),
    /** `old` and `new`, each missing where nothing was or is. */
    value: jsonb('value').$type<{ old?: unknown, new?: unknown }>().notNull(),
    gesture: text('gesture'),
    who: text('who').notNull(),
    person: text('person').notNull(),
    origin: text('origin').$type<Change['origin']>().notNull(),
    live: boolean('live').notNull(),
    undo: text('undo').$type<UndoState>().notNull(),
    at: now('at'),
  },
  t => [
    primaryKey({ columns: [t.siteId, t.number] }),
    index('changes_undo').on(t.siteId, t.person, t.undo, t.number),
  ],
)

/** What takes share, by the hash of its text: snapshots of rigs, capabilities of devices. */
export const contents = pgTable('contents', {
  hash: text('hash').primaryKey(),
  content: jsonb('content').notNull(),
})

/** Bytes of takes (core/formats/take). */
export const takeData = pgTable(
  'take_data',
  { siteId: siteId(), id: text('id').notNull(), data: bytes('data').notNull() },
  t => [primaryKey({ columns: [t.siteId, t.id] })],
)

/** Which site drives the device at an address: one, until another takes it over. */
export const claims = pgTable('claims', {
  address: text('address').primaryKey(),
  siteId: siteId(),
  deviceId: text('device_id').notNull(),
})

/** Browsers that have been named: the hash of each one's token, and who sits there. */
export const sessions = pgTable('sessions', {
  id: text('id').primaryKey(),
  person: text('person').notNull(),
  who: text('who').notNull(),
  seen: now('seen'),
})

/** Addresses of devices to which somebody at this machine said that Kovrin may connect. */
export const addresses = pgTable('addresses', {
  address: text('address').primaryKey(),
  who: text('who').notNull(),
  at: now('at'),
})

/** Settings of the whole installation, each by its name. */
export const keeping = pgTable('keeping', { name: text('name').primaryKey(), value: jsonb('value').notNull() })

/** Temporary states that the server puts back when their owner is gone; `entries` as of server/leases. */
export const leases = pgTable('leases', {
  id: text('id').primaryKey(),
  siteId: siteId(),
  person: text('person').notNull(),
  who: text('who').notNull(),
  what: text('what').notNull(),
  until: timestamp('until', { withTimezone: true }).notNull(),
  entries: jsonb('entries').$type<Record<string, LeaseEntry>>().notNull(),
})
/**
 * A value that a lease changed: where, what it was, what the lease last made of it; `put`: it has been put back in the
 * draft, and its device has not confirmed it yet.
 */
export interface LeaseEntry {
  document: string
  path: string
  old?: unknown
  now?: unknown
  put?: boolean
}

export const log = pgTable(
  'log',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    siteId: siteId(),
    who: text('who').notNull(),
    /** The sentence in English; rows of before have nothing else. */
    what: text('what').notNull(),
    code: text('code'),
    values: jsonb('values').$type<Message['values']>(),
    at: now('at'),
  },
  t => [index('log_site').on(t.siteId, t.id)],
)
