import { coverage } from '~~/core/acoustics'
import { CoverageRequest } from '~~/core/contract/workers/coverage'
import { serve } from './line'

serve(CoverageRequest, ({ places, radiators, air, frequency }) => {
  const map = coverage(places, radiators, air, frequency)
  self.postMessage(map, { transfer: [map.levels.buffer] })
})
