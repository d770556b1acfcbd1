import * as v from 'valibot'
import { AlignAnswer } from './align'
import { queries } from './analysis'
import {
  BackupCheck,
  BackupFile,
  BackupQuery,
  BackupsAnswer,
  HealthAnswer,
  Keeping,
  RestoreAnswer,
  RestoreQuery,
} from './keeping'
import { FitAnswer, FitBody, ResponseBody } from './shape'
import {
  ContentsAnswer,
  ContentsBody,
  DropAnswer,
  EditsAnswer,
  EditsBody,
  HistoryAnswer,
  LeaseAnswer,
  LeaseBody,
  LeaseEnd,
  LedgerAnswer,
  ListedSite,
  SendAnswer,
  SessionAnswer,
  SessionBody,
  SiteAnswer,
  TakeAnswer,
  TemplateAnswer,
  UndoAnswer,
  UndoBody,
} from './site'
import { SiteFile } from '../documents'

/** Bytes instead of JSON: their media type, and what they are. */
export interface Bytes {
  media: string
  about: string
}
const bytes = (media: string, about: string): Bytes => ({ media, about })

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

const noSite = { 404: 'There is no such site' }
const asked = (how: string, what: string) => ({ ...noSite, 400: how, 422: what })
const wav = bytes('audio/wav', 'A WAV file')
const archive = bytes('application/gzip', 'The archive (docs/formats.md)')
const refusedAnalysis = {
  400: 'An option is wrong',
  413: 'The file is too large',
  422: 'The recording cannot be analysed',
  503: 'Too many analyses wait; retry-after says when to ask again',
}

const refusedParts = {
  ...refusedAnalysis,
  400: 'The form or its part options is not understood',
  422: 'The files do not go together, or what is asked of them cannot be: which, and why',
}
const sources = bytes(
  'multipart/form-data',
  'One WAV part a source (its name is the source; one channel a position, all with the same positions and rate, sample '
  + '0 at the same moment), and a part options with JSON',
)

const refusedShape = {
  400: 'The body is not understood',
  413: 'The body is too large',
  422: 'What is asked cannot be: which block or limit, and why',
  503: refusedAnalysis[503],
}

export const HistoryQuery = v.strictObject({
  limit: v.optional(
    v.pipe(v.string(), v.transform(Number), v.number(), v.integer(), v.minValue(1), v.maxValue(1000)),
    '200',
  ),
})

/** What a new site is made of. */
export const NewSiteBody = v.variant('from', [
  v.strictObject({
    from: v.literal('template'),
    template: v.string(),
    name: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(80)),
  }),
  v.strictObject({
    from: v.literal('site'),
    site: v.string(),
    name: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(80)),
  }),
  v.strictObject({ from: v.literal('file'), file: v.unknown() }),
])
export type NewSiteBody = v.InferInput<typeof NewSiteBody>
const NewSiteAnswer = v.object({ id: v.string() })

/** Deleted sites instead of those in use. */
export const SitesQuery = v.strictObject({ deleted: v.optional(v.picklist(['true', 'false']), 'false') })

const site = '/api/sites/{site}'
const changeErrors = {
  ...asked('The body is not understood', 'It cannot be: the reason says what is allowed'),
  409: 'Something was changed meanwhile; the newer value comes along in `data`',
}

/** Everything that can be asked of the server over HTTP: the one table of requests, answers and refusals. */
export const operations = {
  health: {
    method: 'get',
    path: '/api/health',
    tag: 'server',
    summary: 'The state of each part, the age of the last backup, free disk',
    answer: HealthAnswer,
    errors: { 503: 'The database is away' },
  },
  docs: {
    method: 'get',
    path: '/api/docs',
    tag: 'server',
    summary: 'This interface as a page',
    answer: bytes('text/html', 'The page'),
  },
  openapi: {
    method: 'get',
    path: '/api/openapi.json',
    tag: 'server',
    summary: 'This interface as an OpenAPI 3.1 document',
    answer: bytes('application/json', 'The document'),
  },
  backup: {
    method: 'get',
    path: '/api/backup',
    tag: 'backups',
    summary: 'The archive of a site, or of everything: history, deleted things and takes as well',
    query: BackupQuery,
    answer: archive,
    errors: noSite,
  },
  checkBackup: {
    method: 'post',
    path: '/api/backup/check',
    tag: 'backups',
    summary: 'Reads an archive to its end: how many rows and takes it holds; keeps nothing',
    body: archive,
    answer: BackupCheck,
    errors: { 422: 'It is no archive, was cut short or changed' },
  },
  restore: {
    method: 'post',
    path: '/api/restore',
    tag: 'backups',
    summary: 'Puts back what an archive holds: all of it, or nothing',
    query: RestoreQuery,
    body: archive,
    answer: RestoreAnswer,
    errors: { 422: 'It is no archive, was cut short or changed, or is of a newer Kovrin' },
  },
  backups: {
    method: 'get',
    path: '/api/backups',
    tag: 'backups',
    summary: 'The backups that Kovrin keeps, and how',
    answer: BackupsAnswer,
    errors: { 422: 'There is no folder for them' },
  },
  makeBackup: {
    method: 'post',
    path: '/api/backups',
    tag: 'backups',
    summary: 'Makes a backup of everything now, and reads it back',
    answer: BackupFile,
    status: 201,
    errors: { 422: 'It cannot be written' },
  },
  nameKeeping: {
    method: 'put',
    path: '/api/backups',
    tag: 'backups',
    summary: 'Says how backups and logs are kept',
    body: Keeping,
    answer: Keeping,
    errors: { 400: 'The body is not understood', 422: 'The folder cannot be written' },
  },
  session: {
    method: 'get',
    path: '/api/session',
    tag: 'server',
    summary: 'Who this browser is to the server: by its cookie, “Somebody” without one',
    answer: SessionAnswer,
  },
  nameSession: {
    method: 'put',
    path: '/api/session',
    tag: 'server',
    summary: 'Says how the person at this browser is called; what is done from now on stands under that name',
    body: SessionBody,
    answer: SessionAnswer,
    errors: { 400: 'The name is not understood' },
  },
  listSites: {
    method: 'get',
    path: '/api/sites',
    tag: 'sites',
    summary: 'All sites with what a picture of their plan needs',
    query: SitesQuery,
    answer: v.array(ListedSite),
  },
  makeSite: {
    method: 'post',
    path: '/api/sites',
    tag: 'sites',
    summary: 'A new site: from a template, as a copy of another, or from a site file of any version',
    body: NewSiteBody,
    answer: NewSiteAnswer,
    status: 201,
    errors: asked('The body is not understood', 'The file contradicts itself, or is newer than this application'),
  },
  templates: {
    method: 'get',
    path: '/api/templates',
    tag: 'sites',
    summary: 'What a new site can begin with',
    answer: v.array(TemplateAnswer),
  },
  openSite: {
    method: 'get',
    path: site,
    tag: 'sites',
    summary: 'A site whole: its documents, and the number of its newest change',
    answer: SiteAnswer,
    errors: noSite,
  },
  deleteSite: {
    method: 'delete',
    path: site,
    tag: 'sites',
    summary: 'Deletes a site that was deleted before, for good: with its takes and its history',
    answer: v.object({}),
    errors: { ...noSite, 409: 'The site is in use' },
  },
  siteFile: {
    method: 'get',
    path: `${site}/file`,
    tag: 'sites',
    summary: 'The site file',
    answer: SiteFile,
    errors: noSite,
  },
  ledger: {
    method: 'get',
    path: `${site}/ledger`,
    tag: 'sites',
    summary: 'How much is measured and still true',
    answer: LedgerAnswer,
    errors: noSite,
  },
  history: {
    method: 'get',
    path: `${site}/history`,
    tag: 'sites',
    summary: 'Changes of settings and what happened, newest first',
    query: HistoryQuery,
    answer: HistoryAnswer,
    errors: noSite,
  },
  makeEdits: {
    method: 'post',
    path: `${site}/changes`,
    tag: 'changes',
    summary: 'Changes documents: all of the edits, or none',
    body: EditsBody,
    answer: EditsAnswer,
    errors: changeErrors,
  },
  undo: {
    method: 'post',
    path: `${site}/undo`,
    tag: 'changes',
    summary: 'Takes back the asker’s newest change',
    body: UndoBody,
    answer: UndoAnswer,
    errors: { ...noSite, 409: 'Nothing to take back, or it was changed meanwhile' },
  },
  redo: {
    method: 'post',
    path: `${site}/redo`,
    tag: 'changes',
    summary: 'Makes again what the asker took back',
    body: UndoBody,
    answer: UndoAnswer,
    errors: { ...noSite, 409: 'Nothing to make again, or it was changed meanwhile' },
  },
  beginLease: {
    method: 'post',
    path: `${site}/leases`,
    tag: 'changes',
    summary: 'Begins a temporary state that the server puts back when its owner is gone',
    body: LeaseBody,
    answer: LeaseAnswer,
    status: 201,
    errors: noSite,
  },
  renewLease: {
    method: 'put',
    path: `${site}/leases/{lease}`,
    tag: 'changes',
    summary: 'The owner of a temporary state is still there',
    answer: LeaseAnswer,
    errors: { 404: 'It has ended and was put back' },
  },
  endLease: {
    method: 'delete',
    path: `${site}/leases/{lease}`,
    tag: 'changes',
    summary: 'Ends a temporary state: what it changed is put back',
    answer: LeaseEnd,
    errors: { 404: 'It has ended already' },
  },
  send: {
    method: 'post',
    path: `${site}/devices/{device}/send`,
    tag: 'devices',
    summary: 'Sends every unsent value and reads back',
    answer: SendAnswer,
    errors: { 404: 'There is no such site or device' },
  },
  drop: {
    method: 'post',
    path: `${site}/devices/{device}/drop`,
    tag: 'devices',
    summary: 'Lets the draft go: it becomes what the device holds',
    answer: DropAnswer,
    errors: { 404: 'There is no such site or device' },
  },
  takeOver: {
    method: 'post',
    path: `${site}/devices/{device}/take-over`,
    tag: 'devices',
    summary: 'Lets this site drive the device from now on, and no other',
    answer: v.object({ from: v.nullable(v.string()) }),
    errors: { 404: 'There is no such site or device' },
  },
  keepTake: {
    method: 'post',
    path: `${site}/takes`,
    tag: 'takes',
    summary: 'Keeps a take',
    body: bytes('application/octet-stream', 'Length of the JSON head (uint32), the head, the take’s bytes'),
    answer: TakeAnswer,
    status: 201,
    errors: {
      ...noSite,
      400: 'Head or bytes are not understood',
      409: 'Settings on its path changed since it was begun',
      413: 'It is too large',
    },
  },
  takeData: {
    method: 'get',
    path: `${site}/takes/{take}/data`,
    tag: 'takes',
    summary: 'The take’s bytes',
    answer: bytes('application/octet-stream', 'core/formats/take'),
    errors: { 404: 'There is no such take' },
  },
  deleteTake: {
    method: 'delete',
    path: `${site}/takes/{take}`,
    tag: 'takes',
    summary: 'Deletes a take that is out of the ledger, for good: also in the history',
    answer: v.object({}),
    errors: { 404: 'There is no such take', 409: 'The take is in the ledger' },
  },
  duplicateTake: {
    method: 'post',
    path: `${site}/takes/{take}/duplicate`,
    tag: 'takes',
    summary: 'A second take of the same data',
    answer: TakeAnswer,
    errors: { 404: 'There is no such take' },
  },
  contents: {
    method: 'post',
    path: '/api/contents',
    tag: 'takes',
    summary: 'Snapshots and capabilities by their hashes',
    body: ContentsBody,
    answer: ContentsAnswer,
  },
  transfer: {
    method: 'post',
    path: '/api/analysis/transfer',
    tag: 'analysis',
    summary: 'Transfer function with coherence of a two-channel recording',
    query: queries.transfer,
    body: wav,
    answer: bytes(
      'text/csv',
      'frequency_hz, magnitude_db, phase_deg, coherence, confidence_db (95 of 100 measurements lie within so much of '
      + 'the level); the arrival in x-kovrin-arrival-ms, what speaks against the figures in x-kovrin-warnings',
    ),
    errors: refusedAnalysis,
  },
  sweep: {
    method: 'post',
    path: '/api/analysis/sweep',
    tag: 'analysis',
    summary: 'Impulse response, signal-to-noise, harmonics, decay times and STI of a recorded exponential sweep',
    query: queries.sweep,
    body: wav,
    answer: bytes('application/json', 'Figures; with answer=wav the impulse response as audio/wav (32-bit float)'),
    errors: refusedAnalysis,
  },
  decay: {
    method: 'post',
    path: '/api/analysis/decay',
    tag: 'analysis',
    summary: 'Decay times (EDT, T20, T30), C50, C80, D50 per band and STI of an impulse response',
    query: queries.decay,
    body: wav,
    answer: bytes('application/json', 'Figures by band'),
    errors: refusedAnalysis,
  },
  bands: {
    method: 'post',
    path: '/api/analysis/bands',
    tag: 'analysis',
    summary: 'Level per fractional-octave band',
    query: queries.bands,
    body: wav,
    answer: bytes('application/json', 'dBFS by band'),
    errors: refusedAnalysis,
  },
  level: {
    method: 'post',
    path: '/api/analysis/level',
    tag: 'analysis',
    summary: 'Sound level: now, equivalent, largest, peak',
    query: queries.level,
    body: wav,
    answer: bytes('application/json', 'Levels'),
    errors: refusedAnalysis,
  },
  response: {
    method: 'post',
    path: '/api/analysis/response',
    tag: 'analysis',
    summary: 'Response of filters, gains, delays and FIR coefficients one after the other',
    body: ResponseBody,
    answer: bytes('text/csv', 'frequency_hz, magnitude_db (-300 where it is silent), phase_deg'),
    errors: refusedShape,
  },
  fit: {
    method: 'post',
    path: '/api/analysis/fit',
    tag: 'analysis',
    summary: 'Filters that bring the weighted mean of curves nearest to a target, and what they leave alone and why',
    body: FitBody,
    answer: FitAnswer,
    errors: refusedShape,
  },
  align: {
    method: 'post',
    path: '/api/analysis/align',
    tag: 'analysis',
    summary: 'Delay, polarity and level of one source for its best sum with another over all positions; options: '
      + 'reference, move, delay, step?, polarity, level?, band?, weights?, worst?',
    body: sources,
    answer: AlignAnswer,
    errors: refusedParts,
  },
  sum: {
    method: 'post',
    path: '/api/analysis/sum',
    tag: 'analysis',
    summary: 'Complex sum of sources at every position; options: sources by name, each with gain, delay, polarity',
    body: sources,
    answer: bytes('text/csv', 'position, frequency_hz, magnitude_db (-300 where it is silent), phase_deg'),
    errors: refusedParts,
  },
} as const satisfies Record<string, Operation>

const patterns = (Object.values(operations) as Operation[]).map(operation => ({
  operation,
  pattern: new RegExp(`^${operation.path.replace(/[.]/g, '\\.').replace(/\{\w+\}/g, '[^/]+')}/?$`),
}))
/** What can be asked at an address, by method; empty where nothing can. */
export const operationsAt = (path: string): Record<string, Operation> =>
  Object.fromEntries(patterns.filter(p => p.pattern.test(path)).map(p => [p.operation.method, p.operation]))
/** The options of an operation by their names. */
export const queryEntries = ({ query }: Operation): Record<string, v.GenericSchema> =>
  (query as { entries?: Record<string, v.GenericSchema> } | undefined)?.entries ?? {}
