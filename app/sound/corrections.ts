import { defineStore } from 'pinia'
import { useLocalStorage } from '@vueuse/core'
import { curveOfText, readCurveText, textOfCurve, writeCurveText } from '~~/core/formats/curveText'
import { divide, multiply, onGrid, standardGrid, type Curve } from '~~/core/dsp'
import type { ChannelCorrection } from '~~/core/contract'
import type { Tap } from '~~/core/measure'
import { useNotices } from '~/parts/notices'
import { useInputs } from './inputs'
import { message } from '~~/core/words'
import { phrase } from '~/parts/phrase'

/**
 * What is taken out of a measurement because it belongs to the tools: each microphone's own response, and the
 * interface's.
 */
export const useCorrections = defineStore('corrections', () => {
  const inputs = useInputs()
  const notices = useNotices()
  /** The interface's own response, measured once through a cable from output to input. */
  const interfaceText = useLocalStorage<{ name: string, text: string } | null>('kovrin-interface', null, {
    serializer: { read: JSON.parse, write: JSON.stringify },
  })
  const read = new Map<string, Curve | null>()
  function curveOf({ text }: { text: string }): Curve | null {
    if (!read.has(text)) {
      try {
        const given = onGrid(curveOfText(readCurveText(text)), standardGrid)
        // beyond its range nothing is corrected
        const sounds = standardGrid.map((_, k) => Number(given.re[k] !== 0 || given.im[k] !== 0))
        read.set(text, { ...given, re: given.re.map((v, k) => (sounds[k] ? v : 1)), coherence: null })
      }
      catch {
        read.set(text, null)
      } // was checked when it was chosen
    }
    return read.get(text)!
  }
  const readAll = (texts: readonly ({ text: string } | null)[]) => texts.flatMap(t => (t ? (curveOf(t) ?? []) : []))
  const ownOf = (microphone: Tap) => readAll([inputs.channelOf(microphone).correction])
  const wholeOf = (microphone: Tap) => [...ownOf(microphone), ...readAll([interfaceText.value])]
  const columnsOf = (curves: readonly Curve[]) => {
    const product = curves.reduce<Curve | null>((a, b) => (a ? multiply(a, b) : b), null)
    return product && { re: product.re, im: product.im }
  }
  return {
    interfaceText,
    corrected: (curve: Curve, microphone: Tap): Curve => wholeOf(microphone).reduce(divide, curve),
    /** The same for whoever hears the sound itself: its spectra, levels and responses. */
    ofChannel: (tap: Tap): ChannelCorrection => ({ own: columnsOf(ownOf(tap)), whole: columnsOf(wholeOf(tap)) }),
    async load(microphone: Tap, file: File) {
      const text = await file.text()
      try {
        readCurveText(text)
        inputs.changeChannel(microphone, { correction: { name: file.name, text } })
        notices.say(
          'info',
          message('correction.set', { name: file.name, microphone: inputs.labelOf(microphone) }),
        )
      }
      catch (error) {
        notices.say('error', message('correction.refused', { name: file.name, why: (error as Error).message }))
      }
    },
    /** Keeps what is measured now, uncorrected, as the interface's own response; false when it is no cable. */
    keepInterface(measured: Curve | null): boolean {
      if (!measured) {
        notices.say(
          'warn',
          message('correction.nothingMeasured'),
        )
        return false
      }
      const inside = [...standardGrid.keys()].filter(k => standardGrid[k]! > 40 && standardGrid[k]! < 16_000)
      const coherence = inside.reduce((sum, k) => sum + measured.coherence![k]!, 0) / inside.length
      if (coherence < 0.995) {
        notices.say(
          'error',
          message('correction.noLoopback', { coherence: coherence.toFixed(2) }),
        )
        return false
      }
      interfaceText.value = {
        name: phrase('sound.interface', { at: new Date().toLocaleString() }),
        text: writeCurveText(textOfCurve({ ...measured, coherence: null })),
      }
      notices.say('info', message('correction.interfaceSet'))
      return true
    },
  }
})
