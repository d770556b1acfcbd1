import { coverage, type Air, type Coverage, type Place, type Radiator } from '~~/core/acoustics'

export interface CoverageRequest { size: Place, radiators: Radiator[], air: Air, frequency: number, height: number, step: number }
export type CoverageAnswer = Coverage

self.onmessage = (event: MessageEvent<CoverageRequest>) => {
  const { size, radiators, air, frequency, height, step } = event.data
  const map = coverage(size, radiators, air, frequency, height, step)
  self.postMessage(map satisfies CoverageAnswer, { transfer: [map.levels.buffer] })
}
