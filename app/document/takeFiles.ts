import { defineStore } from 'pinia'
import type { TakeHead, FileRequest } from '~~/core/contract'
import type { Take, TakeInfo } from '~~/core/documents'
import type { Curve } from '~~/core/dsp'
import { textOfCurve, writeCurveText } from '~~/core/formats/curveText'
import { decodeTake } from '~~/core/formats/take'
import { writeWav, type WavKind } from '~~/core/formats/wav'
import { FileAnswer } from '~~/core/contract'
import { hearFrom } from '~/workers/line'
import { askBytes } from './api'
import { download } from '~/parts/download'
import { useSite } from './site'
import { useTakes } from './takes'
import { useNotices } from '~/parts/notices'
import { message, wordsOf } from '~~/core/words'

/** A head for what was not measured here. */
function headOf(
  info: Partial<TakeInfo> & Pick<TakeInfo, 'method' | 'input'>,
  name: string,
  number: number,
  delay = 0,
): Omit<TakeHead, 'source' | 'position'> {
  const plain = {
    sampleRate: 48_000,
    length: 16_384,
    blocks: 1,
    arrival: null,
    microphoneLevel: null,
    referenceLevel: null,
    sweep: null,
  }
  return {
    only: null,
    name,
    number,
    info: { ...plain, ...info },
    timing: { reference: '', sameClock: false, drift: null, delay },
  }
}

/** Takes that come from files and go into files. */
export const useTakeFiles = defineStore('take-files', () => {
  const site = useSite()
  const takes = useTakes()
  const notices = useNotices()

  /** Keeps what is made of the takes in view as a take of its own. */
  const keepMade = ({ name, curve }: { name: string, curve: Curve }) =>
    takes.store({ curve, impulse: null, harmonics: [], signalToNoise: [] },
      headOf({ method: 'average', input: name }, name, site.number))

  const read = (file: File, bytes: ArrayBuffer) => {
    const worker = new Worker(new URL('../workers/files.worker.ts', import.meta.url), { type: 'module' })
    return new Promise<FileAnswer>((resolve, reject) => {
      hearFrom(worker, FileAnswer, resolve, why => reject(new Error(why)))
      worker.postMessage({ name: file.name, bytes } satisfies FileRequest, [bytes])
    }).finally(() => worker.terminate())
  }
  /** A measurement from a file, into the picked cell. */
  async function importFile(file: File) {
    try {
      const told = await read(file, await file.arrayBuffer())
      if (!told.ok) {
        const why = wordsOf(told.why)
        return notices.say('error', message('take.notImported', { name: file.name, why }))
      }
      const { curve, impulse, sampleRate, start, blocks, arrival, delay, note } = told.answer
      const length = 2 ** Math.max(6, Math.min(21, Math.ceil(Math.log2(Math.max(64, impulse.length)))))
      const input = `${file.name}: ${note}`.slice(0, 200)
      const name = file.name.replace(/\.[^.]+$/, '').slice(0, 120)
      const response = impulse.length ? { samples: impulse, sampleRate, start } : null
      const head = headOf(
        { method: 'import', input, sampleRate, length, blocks, arrival },
        name,
        site.number,
        delay,
      )
      await takes.store({ curve, impulse: response, harmonics: [], signalToNoise: [] }, head)
    }
    catch (error) {
      notices.fail(error)
    }
  }

  /** A take as a file: its curve as it was kept (without offset or shift), or its impulse response. */
  async function exportTake(t: Take, kind: 'text' | 'csv' | WavKind) {
    try {
      const { curve, impulse } = decodeTake(await askBytes(site.path(`/takes/${t.id}/data`)))
      if (kind === 'text' || kind === 'csv') {
        const name = `${t.name}.${kind === 'csv' ? 'csv' : 'txt'}`
        return download(name, writeCurveText(textOfCurve(curve), kind), 'text/plain')
      }
      if (!impulse) return notices.say('warn', message('take.noImpulse', { name: t.name }))
      const { samples, sampleRate } = impulse
      download(`${t.name}.wav`, writeWav({ sampleRate, channels: [samples] }, kind), 'audio/wav')
    }
    catch (error) {
      notices.fail(error)
    }
  }
  return { keepMade, importFile, exportTake }
})
