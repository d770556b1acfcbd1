import { coverage, type Air, type Coverage, type Radiator } from '~~/core/acoustics'

export interface CoverageRequest {
  places: Float32Array
  radiators: Radiator[]
  air: Air
  frequency: number
}
export type CoverageAnswer = Coverage

self.onmessage = (event: MessageEvent<CoverageRequest>) => {
  const { places, radiators, air, frequency } = event.data
  const map = coverage(places, radiators, air, frequency)
  self.postMessage(map satisfies CoverageAnswer, { transfer: [map.levels.buffer] })
}
