import { defineStore } from 'pinia'
import { createRing } from '~~/core/measure'
import { useLocalStorage } from '@vueuse/core'
import type { CaptureRequest } from '~/workers/messages'
import workletUrl from '~/worklets/capture.worklet.ts?worker&url'

export interface SoundDevice { id: string, label: string }
export type InputState = 'closed' | 'asking' | 'open' | 'refused' | 'none' | 'unplugged' | 'failed'

const ringFrames = 2 ** 19

/** This computer's own sound inputs and outputs: listed, opened into a ring, watched for being pulled out. */
export const useComputerInputs = defineStore('computer-inputs', () => {
  const inputs = ref<SoundDevice[]>([])
  const outputs = ref<SoundDevice[]>([])
  const state = ref<InputState>('closed')
  const why = ref('')
  const channels = ref(2)
  const choice = useLocalStorage('kovrin-computer-inputs', { device: '', label: '', microphone: 0, reference: 1 as number | 'generator', output: '' })
  let opened: { context: AudioContext, stream: MediaStream, node: AudioWorkletNode } | null = null
  let deliver: ((buffer: SharedArrayBuffer) => void) | null = null

  const list = async () => {
    const devices = await navigator.mediaDevices.enumerateDevices()
    const named = (kind: MediaDeviceKind, word: string) => devices.filter(d => d.kind === kind && d.deviceId !== 'communications')
      .map((d, n) => ({ id: d.deviceId, label: d.label || `${word} ${n + 1}` }))
    inputs.value = named('audioinput', 'Input')
    outputs.value = named('audiooutput', 'Output')
  }

  const sentences: Record<string, [InputState, string]> = {
    NotAllowedError: ['refused', 'The browser may not use the microphone. Allow it (the icon left of the page’s address), then listen again. Nothing was lost.'],
    NotFoundError: ['none', 'This computer has no sound input. Plug one in and listen again, or use the simulated interface.'],
    NotReadableError: ['failed', 'The input is there but cannot be opened: another program may hold it. Close that program, then listen again.'],
    OverconstrainedError: ['unplugged', 'The chosen input is not there. Plug it in, or choose another.'],
  }

  /** Opens the chosen input and hands its ring to `use`, again whenever it comes back after being pulled out. */
  async function open(use: (buffer: SharedArrayBuffer) => void) {
    close()
    deliver = use
    state.value = 'asking'
    why.value = ''
    let stream: MediaStream | null = null
    try {
      if (!navigator.mediaDevices) throw new DOMException('', 'NotFoundError')
      const { device } = choice.value
      stream = await navigator.mediaDevices.getUserMedia({ audio: {
        ...(device ? { deviceId: { exact: device } } : {}), channelCount: { ideal: 2 }, echoCancellation: false, noiseSuppression: false, autoGainControl: false,
      } })
      await list()
      const track = stream.getAudioTracks()[0]!, settings = track.getSettings()
      choice.value = { ...choice.value, device: settings.deviceId ?? device, label: track.label }
      channels.value = settings.channelCount ?? 2
      const context = new AudioContext({ latencyHint: 'playback', ...(settings.sampleRate ? { sampleRate: settings.sampleRate } : {}) })
      await context.audioWorklet.addModule(workletUrl)
      if (choice.value.output && 'setSinkId' in context) await (context as AudioContext & { setSinkId(id: string): Promise<void> }).setSinkId(choice.value.output)
      const node = new AudioWorkletNode(context, 'kovrin-capture', { numberOfInputs: 1, numberOfOutputs: 1, outputChannelCount: [2], channelCountMode: 'max' })
      node.onprocessorerror = () => lose('failed', 'The sound input stopped working inside the browser. Listen again.')
      context.createMediaStreamSource(stream).connect(node).connect(context.destination)
      await context.resume()
      track.onended = () => lose('unplugged', `“${track.label}” was pulled out. What was measured is kept; listening goes on when it is back.`)
      opened = { context, stream, node }
      const ring = createRing(context.sampleRate, 2, ringFrames)
      tell({ type: 'open', buffer: ring.buffer, microphone: choice.value.microphone, reference: choice.value.reference })
      state.value = 'open'
      use(ring.buffer)
    }
    catch (error) {
      stream?.getTracks().forEach(t => t.stop())
      const [next, sentence] = sentences[(error as DOMException).name] ?? ['failed', `The input cannot be opened: ${(error as Error).message}.`]
      state.value = next
      why.value = sentence
    }
  }

  function tell(request: CaptureRequest) { opened?.node.port.postMessage(request) }

  function lose(next: InputState, sentence: string) {
    shut()
    state.value = next
    why.value = sentence
  }
  function shut() {
    opened?.stream.getTracks().forEach((t) => { t.onended = null; t.stop() })
    void opened?.context.close()
    opened = null
  }
  function close() {
    deliver = null
    shut()
    state.value = 'closed'
    why.value = ''
  }

  async function changed() {
    await list()
    if (state.value === 'unplugged' && deliver) {
      const back = inputs.value.find(d => d.id === choice.value.device) ?? inputs.value.find(d => d.label === choice.value.label)
      if (back) {
        choice.value = { ...choice.value, device: back.id }
        await open(deliver)
      }
    }
    else if (state.value === 'none' && deliver && inputs.value.length) await open(deliver)
    else if (state.value === 'open' && !inputs.value.some(d => d.id === choice.value.device)) lose('unplugged', `“${choice.value.label}” was pulled out. What was measured is kept; listening goes on when it is back.`)
  }
  if (import.meta.client && navigator.mediaDevices) navigator.mediaDevices.addEventListener('devicechange', () => void changed())

  return { inputs, outputs, state, why, channels, choice, list, open, close, tell }
})
