import { f32, u8 } from '../codecs'
import { impedance } from '../structures'
import { defineClass, m, p } from './define'
import { OcaWorker } from './root'

/** What is read: levels, temperatures, voltages (AES70-2018). */
export const OcaSensor = defineClass('1.1.2', 2, OcaWorker, {
  GetReadingState: m(3, 1, [], [u8]),
}, {
  ReadingState: p(3, 1, u8),
})
export const OcaLevelSensor = defineClass('1.1.2.2', 2, OcaSensor, {
  GetReading: m(4, 1, [], [f32, f32, f32]),
}, {
  Reading: p(4, 1, f32),
})
export const OcaTimeIntervalSensor = defineClass('1.1.2.3', 2, OcaSensor, {
  GetReading: m(4, 1, [], [f32, f32, f32]),
}, {
  Reading: p(4, 1, f32),
})
export const OcaFrequencySensor = defineClass('1.1.2.4', 2, OcaSensor, {
  GetReading: m(4, 1, [], [f32, f32, f32]),
}, {
  Reading: p(4, 1, f32),
})
export const OcaTemperatureSensor = defineClass('1.1.2.5', 2, OcaSensor, {
  GetReading: m(4, 1, [], [f32, f32, f32]),
}, {
  Reading: p(4, 1, f32),
})
export const OcaIdentificationSensor = defineClass('1.1.2.6', 2, OcaSensor, {}, {})
export const OcaVoltageSensor = defineClass('1.1.2.7', 1, OcaSensor, {
  GetReading: m(4, 1, [], [f32, f32, f32]),
}, {
  Reading: p(4, 1, f32),
})
export const OcaCurrentSensor = defineClass('1.1.2.8', 1, OcaSensor, {
  GetReading: m(4, 1, [], [f32, f32, f32]),
}, {
  Reading: p(4, 1, f32),
})
export const OcaImpedanceSensor = defineClass('1.1.2.9', 1, OcaSensor, {
  GetReading: m(4, 1, [], [impedance, impedance, impedance]),
}, {
  Reading: p(4, 1, impedance),
})
export const OcaGainSensor = defineClass('1.1.2.10', 1, OcaSensor, {
  GetReading: m(4, 1, [], [f32, f32, f32]),
}, {
  Reading: p(4, 1, f32),
})
export const OcaAudioLevelSensor = defineClass('1.1.2.2.1', 2, OcaLevelSensor, {
  GetLaw: m(5, 1, [], [u8]),
  SetLaw: m(5, 2, [u8], []),
}, {
  Law: p(5, 1, u8),
})
