import type { SendAllAnswer, SendAnswer, UndoAnswer } from '~~/core/contract'
import type { DeviceAct } from '~~/core/rig'
import { ask } from './api'
import { NotAgreed, useAgreement } from './agreement'
import type { useSiteView } from './useSiteView'
import { useNotices } from '~/parts/notices'
import { inWords, message } from '~~/core/words'

interface Doors {
  view: ReturnType<typeof useSiteView>
  /** Address of the open site and what lies under it. */
  path: (rest: string) => string
  /** Whether what is undone goes on to the devices. */
  live: () => boolean
  /** Nothing of this page is on its way any more. */
  idle: () => Promise<void>
}

/** What the server is asked to do with the open site beyond edits: undo, sending drafts, and who drives a device. */
export function useSiteActs({ view: { unsent, deviceOf, deviceName }, path, live, idle }: Doors) {
  const notices = useNotices()
  const agreement = useAgreement()
  const pathOf = (device: string, act: string) => path(`/devices/${encodeURIComponent(device)}/${act}`)

  /**
   * Takes back this person's newest change, whatever it was, or makes it again; under Live settings go on
   * to the device.
   */
  async function undo(which: 'undo' | 'redo') {
    await idle()
    try {
      const { what, why } = await agreement.through(agreed =>
        ask<UndoAnswer>(path(`/${which}`), { method: 'POST', body: { live: live(), agreed } }))
      notices.say(why ? 'warn' : 'info', why ? message('undo.done', { what, why }) : inWords(what))
    }
    catch (error) {
      failed(error)
    }
  }
  const failed = (error: unknown) => {
    if (error instanceof NotAgreed) notices.say('info', message('edit.notApplied'))
    else notices.fail(error)
  }

  /** Sends unsent edits to their devices, all as one step, and says what arrived. */
  async function send(whose: 'all' | 'mine') {
    try {
      const { reports } = await agreement.through(agreed =>
        ask<SendAllAnswer>(path('/send'), { method: 'POST', body: { whose, agreed } }))
      const sent = reports.reduce((sum, r) => sum + r.sent.length, 0)
      const left = reports.filter(r => r.left.length)
        .map(({ device, left: [first, ...rest] }) =>
          message('send.left', { device: deviceName(device), why: first!.why, count: rest.length + 1 }))
      if (sent) notices.say('info', message('send.done', { sent }))
      if (left.length) notices.say('error', message('several', { list: left }))
    }
    catch (error) {
      failed(error)
    }
  }
  /** Lets unsent edits go: they become what the devices hold. */
  async function drop(whose: 'all' | 'mine') {
    for (const [device, list] of Object.entries(unsent.value)) {
      if (list.length)
        await ask(pathOf(device, 'drop'), { method: 'POST', body: { whose } }).catch(notices.fail)
    }
  }
  /** Sends some unsent values of a device and says what arrived. */
  async function sendSome(device: string, paths: readonly string[]) {
    try {
      const { sent, left: [first, ...rest] } = await agreement.through(agreed =>
        ask<SendAnswer>(pathOf(device, 'send'), { method: 'POST', body: { paths, agreed } }))
      if (sent.length) notices.say('info', message('send.done', { sent: sent.length }))
      const values = { device: deviceName(device), why: first?.why ?? '', count: rest.length + 1 }
      if (first) notices.say('error', message('send.left', values))
    }
    catch (error) { failed(error) }
  }
  /** Lets some unsent values of a device go. */
  const dropSome = (device: string, paths: readonly string[]) =>
    ask(pathOf(device, 'drop'), { method: 'POST', body: { whose: 'all', paths } }).catch(notices.fail)
  /** Has a device do something; resolves with whether it did. */
  async function act(device: string, wish: DeviceAct, blind = false): Promise<boolean> {
    try {
      await agreement.through(agreed =>
        ask(pathOf(device, 'act'), { method: 'POST', body: { act: wish, blind, agreed } }))
      return true
    }
    catch (error) {
      failed(error)
      return false
    }
  }
  /** Says that Kovrin may connect to the address at which a device is said to be. */
  async function confirmAddress(device: string) {
    const body = { address: deviceOf(device)?.address ?? '' }
    await ask(pathOf(device, 'confirm'), { method: 'POST', body }).catch(notices.fail)
  }
  /** Lets this site drive a device that another one drives now. */
  async function takeOver(device: string) {
    try {
      const { from } = await ask<{ from: string | null }>(pathOf(device, 'take-over'), { method: 'POST' })
      const name = deviceName(device)
      notices.say('info', from
        ? message('device.controlledFrom', { device: name, site: from })
        : message('device.controlledHere', { device: name }))
    }
    catch (error) {
      notices.fail(error)
    }
  }

  return {
    undo: () => undo('undo'), redo: () => undo('redo'), send, drop, sendSome, dropSome, act, confirmAddress, takeOver,
  }
}
