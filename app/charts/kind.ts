import type { Component } from 'vue'
import type { Wants } from '~~/core/contract'
import type { ChartSettings } from '~/document/chartSettings'
import type { SettingField } from './settings'
import type { Drawn, Trace } from './traces'

/** Unit, lowest, highest and step of the level axis; without a step the library finds one. */
export interface ChartAxis {
  unit: string
  min: number
  max: number
  step?: number
}

/** What a chart is made from. */
export interface ChartContext {
  s: ChartSettings
  /** Everything in view: kept, predicted, measured now. */
  drawn: readonly Drawn[]
  /** Those of `drawn` that have an impulse response; drawn anew only when a response or its look changes. */
  responses: readonly Drawn[]
  /** Those of `drawn` that have harmonics, alike. */
  swept: readonly Drawn[]
  /** Times in ms that responses are drawn at. */
  times: Float64Array
  /** Lowest and highest of the level axis, for kinds that `fit` it. */
  range: readonly [number, number]
  /** The envelope of a response; undefined while it is computed. */
  envelopeOf: (d: Drawn) => Float32Array | undefined
  /** Levels by bands of what is heard now. */
  spectra: () => Trace[]
}

/** A kind of chart: everything that menus, the plate, the analysis and the settings need to know of it. */
export interface ChartKindDefinition {
  name: string
  /** What the analysis must compute for it besides curves. */
  needs?: (s: ChartSettings) => Partial<Wants>
  /** What it is drawn over; null: it has a view of its own. */
  over: 'frequency' | 'time' | null
  axis: (c: ChartContext) => ChartAxis
  traces?: (c: ChartContext) => Trace[]
  /** The axis that fits what is drawn, from the one before: it moves seldom. `at`: the points that matter. */
  fit?: (
    traces: readonly Trace[],
    at: readonly number[],
    before: readonly [number, number],
    s: ChartSettings,
  ) => readonly [number, number]
  settings: readonly SettingField[]
  /** Settings that are more than fields. */
  more?: Component
  view?: Component
  /** What is laid over the drawing to be taken hold of. */
  handles?: Component
  /** True where a running measurement has nothing below what its blocks resolve. */
  byBlocks?: boolean
  /** A movable line at a level. */
  hasLine?: boolean
  /** Share of the plate's height. */
  weight: number
}
