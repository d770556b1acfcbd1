import * as v from 'valibot'
import { SiteFile } from '../documents'
import { bytes, noSite, type Operation } from './operation'
import {
  ConfirmBody,
  ContentsAnswer,
  ContentsBody,
  DropAnswer,
  DropBody,
  EditsAnswer,
  EditsBody,
  HistoryAnswer,
  LeaseAnswer,
  LeaseBody,
  LeaseEnd,
  LedgerAnswer,
  ListedSite,
  SendAllAnswer,
  SendAllBody,
  SendAnswer,
  SendBody,
  SiteAnswer,
  TakeAnswer,
  TemplateAnswer,
  UndoAnswer,
  UndoBody,
  TemporaryAnswer,
  UnsentAnswer,
} from './site'

const asked = (how: string, what: string) => ({ ...noSite, 400: how, 422: what })

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
    /** No devices, or the simulated rack with its cables. */
    rig: v.optional(v.picklist(['none', 'simulated']), 'none'),
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
const louderError = 'It is louder and must be agreed to: `data.louder` lists where and by how much'
const changeErrors = {
  ...asked('The body is not understood', 'It cannot be: the reason says what is allowed'),
  409: 'Something was changed meanwhile (the newer value comes along in `data`), or it is louder and must be agreed to'
    + ' (`data.louder` lists where and by how much)',
}

/** What can be asked of sites: their documents, changes, devices and takes. */
export const siteOperations = {
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
  unsent: {
    method: 'get',
    path: `${site}/unsent`,
    tag: 'changes',
    summary: 'Who wrote each unsent value last',
    answer: UnsentAnswer,
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
    summary: 'Undoes the asker’s newest change',
    body: UndoBody,
    answer: UndoAnswer,
    errors: { ...noSite, 409: 'Nothing to undo, it was changed meanwhile, or it is louder (`data.louder`)' },
  },
  redo: {
    method: 'post',
    path: `${site}/redo`,
    tag: 'changes',
    summary: 'Redoes what the asker undid',
    body: UndoBody,
    answer: UndoAnswer,
    errors: { ...noSite, 409: 'Nothing to redo, it was changed meanwhile, or it is louder (`data.louder`)' },
  },
  hush: {
    method: 'post',
    path: `${site}/hush`,
    tag: 'changes',
    summary: 'Ends every test signal of every page of the site at once',
    answer: v.object({}),
    errors: noSite,
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
  temporary: {
    method: 'get',
    path: `${site}/leases`,
    tag: 'changes',
    summary: 'Settings that stand in devices only for a while',
    answer: TemporaryAnswer,
    errors: noSite,
  },
  renewLease: {
    method: 'put',
    path: `${site}/leases/{lease}`,
    tag: 'changes',
    summary: 'The owner of a temporary state is still there',
    answer: LeaseAnswer,
    errors: { 404: 'It has ended and was put back', 409: 'Somebody else began it' },
  },
  endLease: {
    method: 'delete',
    path: `${site}/leases/{lease}`,
    tag: 'changes',
    summary: 'Ends a temporary state: what it changed is put back',
    answer: LeaseEnd,
    errors: { 404: 'It has ended already', 409: 'Somebody else began it' },
  },
  send: {
    method: 'post',
    path: `${site}/devices/{device}/send`,
    tag: 'devices',
    summary: 'Sends every unsent value of a device and reads back',
    body: SendBody,
    answer: SendAnswer,
    errors: { 404: 'There is no such site or device', 409: louderError },
  },
  sendAll: {
    method: 'post',
    path: `${site}/send`,
    tag: 'devices',
    summary: 'Sends every unsent value of several devices as one step and reads back',
    body: SendAllBody,
    answer: SendAllAnswer,
    errors: { ...noSite, 409: louderError },
  },
  drop: {
    method: 'post',
    path: `${site}/devices/{device}/drop`,
    tag: 'devices',
    summary: 'Discards the draft: it becomes what the device holds',
    body: DropBody,
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
  confirmAddress: {
    method: 'post',
    path: `${site}/devices/{device}/confirm`,
    tag: 'devices',
    summary: 'A person at this machine says that Kovrin may connect to the device’s address',
    body: ConfirmBody,
    answer: v.object({}),
    errors: {
      403: 'It is asked from another machine',
      404: 'There is no such site or device',
      409: 'The device is at another address now',
      422: 'No device can be at such an address',
    },
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
} as const satisfies Record<string, Operation>
