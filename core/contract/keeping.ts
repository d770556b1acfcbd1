import * as v from 'valibot'

/** How the installation keeps what it has: its own backups and its logs. */
export const Keeping = v.strictObject({
  /** A backup of everything once a day. */
  daily: v.boolean(),
  /** So many daily ones stay. */
  keep: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(60)),
  /** A folder of the user's own; null for the one in the data folder. */
  folder: v.nullable(v.pipe(v.string(), v.maxLength(1000), v.startsWith('/', 'A folder begins with “/”.'))),
  /** Days for which the lines of the sites' logs stay; null for ever. */
  logDays: v.nullable(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(3650))),
})
export type Keeping = v.InferOutput<typeof Keeping>
export const usualKeeping: Keeping = { daily: true, keep: 7, folder: null, logDays: null }

export const BackupFile = v.object({ name: v.string(), at: v.string(), bytes: v.number() })
export type BackupFile = v.InferOutput<typeof BackupFile>
export const BackupsAnswer = v.object({
  keeping: Keeping,
  /** Where they are. */
  folder: v.string(),
  /** Newest first. */
  files: v.array(BackupFile),
  /** Why the last one could not be made; null when it could. */
  why: v.nullable(v.string()),
})
export type BackupsAnswer = v.InferOutput<typeof BackupsAnswer>

export const BackupQuery = v.strictObject({ site: v.optional(v.pipe(v.string(), v.maxLength(80))) })
const SiteState = v.object({
  name: v.string(),
  takes: v.number(),
  changes: v.number(),
  /** When it was last changed; null where it never was. */
  last: v.nullable(v.string()),
})
/** What an archive holds, and what it would change if it were put back. */
export const BackupCheck = v.object({
  /** When it was made. */
  at: v.string(),
  /** Rows of each table, and takes. */
  rows: v.record(v.string(), v.number()),
  sites: v.array(v.object({
    id: v.string(),
    ...SiteState.entries,
    /** Settings that stood only for a while when it was made: what was before them comes back. */
    temporary: v.number(),
    /** The site of this key that is here already; null where there is none. */
    here: v.nullable(v.object({ ...SiteState.entries, deleted: v.boolean() })),
  })),
})
export type BackupCheck = v.InferOutput<typeof BackupCheck>

export const RestoreQuery = v.strictObject({
  /** `true`: sites that are there already make room for those of the backup. */
  replace: v.optional(v.picklist(['true', 'false']), 'false'),
})
export const RestoreAnswer = v.object({ restored: v.array(v.string()), left: v.array(v.string()) })
export type RestoreAnswer = v.InferOutput<typeof RestoreAnswer>

/** The state of each part that Kovrin is made of. */
export const HealthAnswer = v.object({
  version: v.string(),
  /** Seconds since the server began. */
  up: v.number(),
  database: v.object({ ok: v.boolean(), version: v.optional(v.string()), why: v.optional(v.string()) }),
  standins: v.record(v.string(), v.picklist(['answers', 'silent'])),
  links: v.record(v.string(), v.number()),
  /** The newest backup and its age in hours; both null where there is none. */
  backup: v.object({ at: v.nullable(v.string()), hours: v.nullable(v.number()), why: v.nullable(v.string()) }),
  /** Bytes free where the data are, and where the backups go; null where it cannot be told. */
  disk: v.object({ data: v.nullable(v.number()), backups: v.nullable(v.number()) }),
})
export type HealthAnswer = v.InferOutput<typeof HealthAnswer>
