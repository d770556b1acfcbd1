import { smoothings } from '~~/core/measure'
import { choicesOf } from '~/parts/choices'
import type { SettingField } from '../settings'
import { phrase } from '~/parts/phrase'

export const milliseconds = (list: readonly number[]) => choicesOf(list, t => `${t * 1000} ms`)
export const confidence: SettingField = {
  kind: 'check',
  key: 'confidence',
  label: phrase('charts.whereOfMeasurementsLie'),
  title: phrase('charts.aroundEachMeasuredLine'),
}
export const smoothComplex: SettingField = {
  kind: 'check',
  key: 'complexSmoothing',
  label: phrase('charts.smoothTheComplexValue'),
}
export const trust: SettingField = {
  kind: 'number',
  label: phrase('charts.paleUnderCoherence'),
  unit: '',
  step: 0.05,
  places: 2,
  get: s => s.trust,
  set: (s, v) => {
    s.trust = Math.max(0, Math.min(1, v))
  },
}
export const timeShown: SettingField = {
  kind: 'choice',
  key: 'time',
  label: phrase('charts.timeShown'),
  options: milliseconds([0.005, 0.02, 0.05, 0.1, 0.3, 1]),
}
export const smoothingChoices = choicesOf(smoothings, n => (n === 48 ? 'none (1/48 octave)' : `1/${n} octave`))
