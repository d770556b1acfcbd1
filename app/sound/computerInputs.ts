import { defineStore } from 'pinia'
import { createRing, generatorTap, splitTap, type PresentDevice, type Tap } from '~~/core/measure'
import { useLocalStorage } from '@vueuse/core'
import type { CaptureRequest } from '~~/core/contract'
import { defaultInput } from '~/sound/sets'
import workletUrl from '~/worklets/capture.worklet.ts?worker&url'
import { useInputs } from './inputs'
import { phrase } from '~/parts/phrase'

export type InputState = 'closed' | 'asking' | 'open' | 'refused' | 'none' | 'unplugged' | 'failed'

const ringFrames = 2 ** 19

/** This computer's own sound inputs and outputs: found, opened into one ring, watched for being pulled out. */
export const useComputerInputs = defineStore('computer-inputs', () => {
  const inputs = useInputs()
  const state = ref<InputState>('closed')
  const why = ref('')
  /** The output that Kovrin's own signal leaves by; '' for the computer's default. */
  const output = useLocalStorage('kovrin-computer-output', '')
  interface Opened {
    key: string
    id: string
    label: string
    stream: MediaStream
  }
  let opened: { context: AudioContext, node: AudioWorkletNode, devices: Opened[] } | null = null
  let asked: { taps: readonly Tap[], use: (buffer: SharedArrayBuffer) => void } | null = null

  const list = async () => {
    const devices = (await navigator.mediaDevices.enumerateDevices()).filter(d => d.deviceId !== 'communications')
    const named = (kind: MediaDeviceKind, least: number): PresentDevice[] =>
      devices
        .filter(d => d.kind === kind && d.deviceId)
        .map(d => ({
          id: d.deviceId,
          label: d.deviceId === defaultInput ? phrase('sound.theComputersDefaultInput') : d.label,
          channels: Math.max(
            least,
            (d as Partial<InputDeviceInfo>).getCapabilities?.().channelCount?.max ?? 2 * Math.sign(least),
          ),
        }))
    const found = named('audioinput', 1)
    inputs.found(
      found.some(d => d.id === defaultInput)
        ? found
        : [{ id: defaultInput, label: phrase('sound.theComputersDefaultInput'), channels: 2 }, ...found],
      named('audiooutput', 0).filter(d => d.id !== defaultInput),
    )
    return new Set(devices.filter(d => d.kind === 'audioinput').map(d => d.deviceId))
  }

  const sentences: Record<string, [InputState, string]> = {
    NotAllowedError: [
      'refused',
      phrase('sound.theBrowserMayNot'),
    ],
    NotFoundError: [
      'none',
      phrase('sound.thisComputerHasNo'),
    ],
    NotReadableError: [
      'failed',
      phrase('sound.theInputCannotBe'),
    ],
    OverconstrainedError: ['unplugged', phrase('sound.theChosenInputIs')],
  }

  /**
   * Opens every device among the taps and hands their common ring to `use`, a channel for each tap; again
   * whenever a device comes back after being pulled out.
   */
  async function open(taps: readonly Tap[], use: (buffer: SharedArrayBuffer) => void) {
    close()
    asked = { taps, use }
    state.value = 'asking'
    why.value = ''
    const wanted = new Map<string, number>()
    const devices: Opened[] = []
    for (const at of taps.map(splitTap))
      if (at) wanted.set(at.key, Math.max(wanted.get(at.key) ?? 1, at.channel + 1))
    let context: AudioContext | null = null
    try {
      if (!navigator.mediaDevices) throw new DOMException('', 'NotFoundError')
      for (const [key, channels] of wanted) {
        const id = key === defaultInput ? '' : (inputs.deviceOf(key)?.device.id ?? key)
        const stream = await navigator.mediaDevices.getUserMedia({
          audio: {
            ...(id ? { deviceId: { exact: id } } : {}),
            channelCount: { ideal: Math.max(2, channels) },
            echoCancellation: false,
            noiseSuppression: false,
            autoGainControl: false,
          },
        })
        const track = stream.getAudioTracks()[0]!
        devices.push({ key, id: track.getSettings().deviceId ?? id, label: track.label, stream })
      }
      await list()
      const rate = devices[0]?.stream.getAudioTracks()[0]!.getSettings().sampleRate
      context = new AudioContext({ latencyHint: 'playback', ...(rate ? { sampleRate: rate } : {}) })
      await context.audioWorklet.addModule(workletUrl)
      const sink = inputs.outputs.find(o => o.device.key === output.value)?.device.id
      if (sink && 'setSinkId' in context)
        await (context as AudioContext & { setSinkId(id: string): Promise<void> }).setSinkId(sink)
      const node = new AudioWorkletNode(context, 'kovrin-capture', {
        numberOfInputs: Math.max(1, devices.length),
        numberOfOutputs: 1,
        outputChannelCount: [2],
        channelCountMode: 'max',
      })
      node.onprocessorerror = () =>
        lose('failed', phrase('sound.theSoundInputStopped'))
      for (const [n, { stream, label }] of devices.entries()) {
        context.createMediaStreamSource(stream).connect(node, 0, n)
        stream.getAudioTracks()[0]!.onended = () => lose('unplugged', pulledOut(label))
      }
      node.connect(context.destination)
      await context.resume()
      opened = { context, node, devices }
      const ring = createRing(context.sampleRate, taps.length, ringFrames)
      tell({
        type: 'open',
        buffer: ring.buffer,
        taps: taps.map((tap) => {
          const at = splitTap(tap)
          return at
            ? { input: devices.findIndex(d => d.key === at.key), channel: at.channel }
            : (generatorTap as 'generator')
        }),
      })
      state.value = 'open'
      use(ring.buffer)
    }
    catch (error) {
      devices.forEach(d => d.stream.getTracks().forEach(t => t.stop()))
      void context?.close()
      const [next, sentence] = sentences[(error as DOMException).name] ?? [
        'failed',
        phrase('sound.theInputCannotBeOpened', { message: (error as Error).message }),
      ]
      state.value = next
      why.value = sentence
    }
  }
  const pulledOut = (label: string) =>
    phrase('sound.wasUnpluggedMeasurementsAre', { label })

  function tell(request: CaptureRequest) {
    opened?.node.port.postMessage(request)
  }

  function lose(next: InputState, sentence: string) {
    shut()
    state.value = next
    why.value = sentence
  }
  function shut() {
    opened?.devices.forEach(d =>
      d.stream.getTracks().forEach((t) => {
        t.onended = null
        t.stop()
      }),
    )
    void opened?.context.close()
    opened = null
  }
  function close() {
    asked = null
    shut()
    state.value = 'closed'
    why.value = ''
  }

  async function changed() {
    const there = await list()
    const keys = asked ? [...new Set(asked.taps.flatMap(t => splitTap(t)?.key ?? []))] : []
    const back
      = there.size > 0
        && keys.every(k => k === defaultInput || inputs.inputs.some(i => i.device.key === k && i.present))
    if ((state.value === 'unplugged' || state.value === 'none') && asked && back) await open(asked.taps, asked.use)
    else if (state.value === 'open') {
      const gone = opened?.devices.find(d => !there.has(d.id))
      if (gone) lose('unplugged', pulledOut(gone.label))
    }
  }
  if (import.meta.client && navigator.mediaDevices)
    navigator.mediaDevices.addEventListener('devicechange', () => void changed().catch(() => {}))

  return { state, why, output, list, open, close, tell }
})
