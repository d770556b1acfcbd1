import {
  bigserial,
  boolean,
  customType,
  doublePrecision,
  foreignKey,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  text,
  timestamp,
  uuid,
} from 'drizzle-orm/pg-core'
import type {
  Capability,
  Endpoint,
  ParameterValue,
  PathSettings,
  Position,
  Settings,
  SitePlan,
  Source,
} from '../../core/rig'
import type { TakeInfo } from '../../core/formats/take'

const bytes = customType<{ data: Buffer }>({ dataType: () => 'bytea' })
const now = (name: string) => timestamp(name, { withTimezone: true }).notNull().defaultNow()

export const sites = pgTable('sites', {
  id: text('id').primaryKey(),
  name: text('name').notNull(),
  plan: jsonb('plan').$type<SitePlan>().notNull(),
  createdAt: now('created_at'),
  touchedAt: now('touched_at'),
  archived: boolean('archived').notNull().default(false),
  /** Set while a site is deleted but can still be brought back. */
  deletedAt: timestamp('deleted_at', { withTimezone: true }),
})

const siteId = () =>
  text('site_id')
    .notNull()
    .references(() => sites.id, { onDelete: 'cascade' })

export const sources = pgTable(
  'sources',
  {
    id: text('id').notNull(),
    siteId: siteId(),
    order: integer('order').notNull(),
    name: text('name').notNull(),
    hue: integer('hue').notNull(),
    elements: jsonb('elements').$type<Source['elements']>().notNull(),
  },
  t => [primaryKey({ columns: [t.siteId, t.id] })],
)

export const positions = pgTable(
  'positions',
  {
    id: text('id').notNull(),
    siteId: siteId(),
    order: integer('order').notNull(),
    name: text('name').notNull(),
    place: jsonb('place').$type<Position['place']>().notNull(),
    weight: jsonb('weight').$type<number>().notNull(),
    dash: integer('dash').notNull(),
  },
  t => [primaryKey({ columns: [t.siteId, t.id] })],
)

/**
 * `draft` is the value being worked on; `held` what the device last confirmed (null: never reached). `revision`
 * counts changes of `held`.
 */
export const devices = pgTable(
  'devices',
  {
    id: text('id').notNull(),
    siteId: siteId(),
    order: integer('order').notNull(),
    name: text('name').notNull(),
    address: text('address').notNull(),
    capability: jsonb('capability').$type<Capability>().notNull(),
    draft: jsonb('draft').$type<Settings>().notNull(),
    held: jsonb('held').$type<Settings>(),
    revision: integer('revision').notNull().default(0),
  },
  t => [primaryKey({ columns: [t.siteId, t.id] })],
)

/**
 * Every change that a person can take back, so that undo reaches across reloads: of the plan, a source or a
 * position (`old` null makes,
 * `new` null removes it), of a setting (`key` is `device/path`), of a take (`old` and `new` hold what changed).
 * The table began with the plan's.
 */
export const changes = pgTable(
  'plan_history',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    siteId: siteId(),
    what: text('what').$type<'plan' | 'source' | 'position' | 'setting' | 'take'>().notNull(),
    key: text('key').notNull(),
    old: jsonb('old'),
    new: jsonb('new'),
    undone: boolean('undone').notNull().default(false),
    /** Undone and then replaced by another change: can no longer be made again. */
    replaced: boolean('replaced').notNull().default(false),
    /** Changes of the same gesture are taken back together. */
    gesture: text('gesture'),
    who: text('who').notNull(),
    at: now('at'),
  },
  t => [index('plan_history_site').on(t.siteId, t.id)],
)

/**
 * Every change of a setting, for ever: in the draft (`edit`), confirmed by the device (`sent`), or made on the
 * device itself (`device`).
 */
export const settingHistory = pgTable(
  'setting_history',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    siteId: siteId(),
    deviceId: text('device_id').notNull(),
    path: text('path').notNull(),
    old: jsonb('old').$type<ParameterValue>(),
    new: jsonb('new').$type<ParameterValue>(),
    kind: text('kind').$type<'edit' | 'sent' | 'device'>().notNull(),
    who: text('who').notNull(),
    at: now('at'),
  },
  t => [
    index('setting_history_site').on(t.siteId, t.id),
    foreignKey({ columns: [t.siteId, t.deviceId], foreignColumns: [devices.siteId, devices.id] }).onDelete(
      'cascade',
    ),
  ],
)

export const takes = pgTable(
  'takes',
  {
    id: uuid('id').primaryKey().defaultRandom(),
    siteId: siteId(),
    sourceId: text('source_id').notNull(),
    positionId: text('position_id').notNull(),
    name: text('name').notNull(),
    info: jsonb('info').$type<TakeInfo>().notNull(),
    feed: jsonb('feed').$type<Endpoint>().notNull(),
    /** What the devices on the path held while it was measured. */
    settings: jsonb('settings').$type<PathSettings>().notNull(),
    data: bytes('data').notNull(),
    who: text('who').notNull(),
    at: now('at'),
    note: text('note').notNull().default(''),
    /** Colour of its own; null: its source's. */
    hue: integer('hue'),
    /** For viewing only: dB added, seconds taken out. */
    offset: doublePrecision('offset').notNull().default(0),
    shift: doublePrecision('shift').notNull().default(0),
    /** Place among the takes of its cell, earlier first; null: by its time. */
    place: doublePrecision('place'),
    /** Set while a take is deleted but can still be brought back. */
    deletedAt: timestamp('deleted_at', { withTimezone: true }),
  },
  t => [
    index('takes_cell').on(t.siteId, t.sourceId, t.positionId),
    foreignKey({ columns: [t.siteId, t.sourceId], foreignColumns: [sources.siteId, sources.id] }).onDelete(
      'cascade',
    ),
    foreignKey({ columns: [t.siteId, t.positionId], foreignColumns: [positions.siteId, positions.id] }).onDelete(
      'cascade',
    ),
  ],
)

export const log = pgTable(
  'log',
  {
    id: bigserial('id', { mode: 'number' }).primaryKey(),
    siteId: siteId(),
    who: text('who').notNull(),
    what: text('what').notNull(),
    at: now('at'),
  },
  t => [index('log_site').on(t.siteId, t.id)],
)
