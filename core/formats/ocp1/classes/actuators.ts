import { bool, f32, list, text, u16, u32, u8 } from '../codecs'
import { dbr, delayValue, transferFunction } from '../structures'
import { defineClass, m, p } from './define'
import { OcaWorker } from './root'

/** What sets something of the sound: gains, filters, dynamics, generators (AES70-2018). */
export const OcaActuator = defineClass('1.1.1', 2, OcaWorker, {}, {})
export const OcaMute = defineClass('1.1.1.2', 2, OcaActuator, {
  GetState: m(4, 1, [], [u8]),
  SetState: m(4, 2, [u8], []),
}, {
  State: p(4, 1, u8),
})
export const OcaPolarity = defineClass('1.1.1.3', 2, OcaActuator, {
  GetState: m(4, 1, [], [u8]),
  SetState: m(4, 2, [u8], []),
}, {
  State: p(4, 1, u8),
})
export const OcaSwitch = defineClass('1.1.1.4', 2, OcaActuator, {
  GetPosition: m(4, 1, [], [u16, u16, u16]),
  SetPosition: m(4, 2, [u16], []),
  GetPositionName: m(4, 3, [u16], [text]),
  SetPositionName: m(4, 4, [u16, text], []),
  GetPositionNames: m(4, 5, [], [list(text)]),
  SetPositionNames: m(4, 6, [list(text)], []),
  GetPositionEnabled: m(4, 7, [u16], [bool]),
  SetPositionEnabled: m(4, 8, [u16, bool], []),
  GetPositionEnableds: m(4, 9, [], [list(bool)]),
  SetPositionEnableds: m(4, 10, [list(bool)], []),
}, {
  Position: p(4, 1, u16),
  PositionNames: p(4, 2, list(text)),
  PositionEnableds: p(4, 3, list(bool)),
})
export const OcaGain = defineClass('1.1.1.5', 2, OcaActuator, {
  GetGain: m(4, 1, [], [f32, f32, f32]),
  SetGain: m(4, 2, [f32], []),
}, {
  Gain: p(4, 1, f32),
})
export const OcaPanBalance = defineClass('1.1.1.6', 2, OcaActuator, {
  GetPosition: m(4, 1, [], [f32, f32, f32]),
  SetPosition: m(4, 2, [f32], []),
  GetMidpointGain: m(4, 3, [], [f32, f32, f32]),
  SetMidpointGain: m(4, 4, [f32], []),
}, {
  Position: p(4, 1, f32),
  MidpointGain: p(4, 2, f32),
})
export const OcaDelay = defineClass('1.1.1.7', 2, OcaActuator, {
  GetDelayTime: m(4, 1, [], [f32, f32, f32]),
  SetDelayTime: m(4, 2, [f32], []),
}, {
  DelayTime: p(4, 1, f32),
})
export const OcaFrequencyActuator = defineClass('1.1.1.8', 2, OcaActuator, {
  GetFrequency: m(4, 1, [], [f32, f32, f32]),
  SetFrequency: m(4, 2, [f32], []),
}, {
  Frequency: p(4, 1, f32),
})
export const OcaFilterClassical = defineClass('1.1.1.9', 2, OcaActuator, {
  GetFrequency: m(4, 1, [], [f32, f32, f32]),
  SetFrequency: m(4, 2, [f32], []),
  GetPassband: m(4, 3, [], [u8]),
  SetPassband: m(4, 4, [u8], []),
  GetShape: m(4, 5, [], [u8]),
  SetShape: m(4, 6, [u8], []),
  GetOrder: m(4, 7, [], [u16, u16, u16]),
  SetOrder: m(4, 8, [u16], []),
  GetParameter: m(4, 9, [], [f32, f32, f32]),
  SetParameter: m(4, 10, [f32], []),
  SetMultiple: m(4, 11, [u16, f32, u8, u8, u16, f32], []),
}, {
  Frequency: p(4, 1, f32),
  Passband: p(4, 2, u8),
  Shape: p(4, 3, u8),
  Order: p(4, 4, u16),
  Parameter: p(4, 5, f32),
})
export const OcaFilterParametric = defineClass('1.1.1.10', 2, OcaActuator, {
  GetFrequency: m(4, 1, [], [f32, f32, f32]),
  SetFrequency: m(4, 2, [f32], []),
  GetShape: m(4, 3, [], [u8]),
  SetShape: m(4, 4, [u8], []),
  GetWidthParameter: m(4, 5, [], [f32, f32, f32]),
  SetWidthParameter: m(4, 6, [f32], []),
  GetInbandGain: m(4, 7, [], [f32, f32, f32]),
  SetInbandGain: m(4, 8, [f32], []),
  GetShapeParameter: m(4, 9, [], [f32, f32, f32]),
  SetShapeParameter: m(4, 10, [f32], []),
  SetMultiple: m(4, 11, [u16, f32, u8, f32, f32, f32], []),
}, {
  Frequency: p(4, 1, f32),
  Shape: p(4, 2, u8),
  WidthParameter: p(4, 3, f32),
  InbandGain: p(4, 4, f32),
  ShapeParameter: p(4, 5, f32),
})
export const OcaFilterPolynomial = defineClass('1.1.1.11', 2, OcaActuator, {
  GetCoefficients: m(4, 1, [], [list(f32), list(f32)]),
  SetCoefficients: m(4, 2, [list(f32), list(f32)], []),
  GetSampleRate: m(4, 3, [], [f32, f32, f32]),
  SetSampleRate: m(4, 4, [f32], []),
  GetMaxOrder: m(4, 5, [], [u8]),
}, {
  A: p(4, 1, list(f32)),
  B: p(4, 2, list(f32)),
  SampleRate: p(4, 3, f32),
  MaxOrder: p(4, 4, u8),
})
export const OcaFilterFIR = defineClass('1.1.1.12', 2, OcaActuator, {
  GetLength: m(4, 1, [], [u32, u32, u32]),
  GetCoefficients: m(4, 2, [], [list(f32)]),
  SetCoefficients: m(4, 3, [list(f32)], []),
  GetSampleRate: m(4, 4, [], [f32, f32, f32]),
  SetSampleRate: m(4, 5, [f32], []),
}, {
  Length: p(4, 1, u32),
  Coefficients: p(4, 2, list(f32)),
  SampleRate: p(4, 3, f32),
})
export const OcaFilterArbitraryCurve = defineClass('1.1.1.13', 2, OcaActuator, {
  GetTransferFunction: m(4, 1, [], [transferFunction]),
  SetTransferFunction: m(4, 2, [transferFunction], []),
  GetSampleRate: m(4, 3, [], [f32, f32, f32]),
  SetSampleRate: m(4, 4, [f32], []),
  GetTFMinLength: m(4, 5, [], [u16]),
  GetTFMaxLength: m(4, 6, [], [u16]),
}, {
  TransferFunction: p(4, 1, transferFunction),
  SampleRate: p(4, 2, f32),
  TFMinLength: p(4, 3, u16),
  TFMaxLength: p(4, 4, u16),
})
export const OcaDynamics = defineClass('1.1.1.14', 2, OcaActuator, {
  GetTriggered: m(4, 1, [], [bool]),
  GetDynamicGain: m(4, 2, [], [f32]),
  GetFunction: m(4, 3, [], [u8]),
  SetFunction: m(4, 4, [u8], []),
  GetRatio: m(4, 5, [], [f32, f32, f32]),
  SetRatio: m(4, 6, [f32], []),
  GetThreshold: m(4, 7, [], [dbr, f32, f32]),
  SetThreshold: m(4, 8, [dbr], []),
  GetThresholdPresentationUnits: m(4, 9, [], [u8]),
  SetThresholdPresentationUnits: m(4, 10, [u8], []),
  GetDetectorLaw: m(4, 11, [], [u8]),
  SetDetectorLaw: m(4, 12, [u8], []),
  GetAttackTime: m(4, 13, [], [f32, f32, f32]),
  SetAttackTime: m(4, 14, [f32], []),
  GetReleaseTime: m(4, 15, [], [f32, f32, f32]),
  SetReleaseTime: m(4, 16, [f32], []),
  GetHoldTime: m(4, 17, [], [f32, f32, f32]),
  SetHoldTime: m(4, 18, [f32], []),
  GetDynamicGainFloor: m(4, 19, [], [f32, f32, f32]),
  SetDynamicGainFloor: m(4, 20, [f32], []),
  GetDynamicGainCeiling: m(4, 21, [], [f32, f32, f32]),
  SetDynamicGainCeiling: m(4, 22, [f32], []),
  GetKneeParameter: m(4, 23, [], [f32, f32, f32]),
  SetKneeParameter: m(4, 24, [f32], []),
  GetSlope: m(4, 25, [], [f32, f32, f32]),
  SetSlope: m(4, 26, [f32], []),
  SetMultiple: m(4, 27, [u16, u8, dbr, u8, u8, f32, f32, f32, f32, f32, f32, f32], []),
}, {
  Triggered: p(4, 1, bool),
  DynamicGain: p(4, 2, f32),
  Function: p(4, 3, u8),
  Ratio: p(4, 4, f32),
  Threshold: p(4, 5, dbr),
  ThresholdPresentationUnits: p(4, 6, u8),
  DetectorLaw: p(4, 7, u8),
  AttackTime: p(4, 8, f32),
  ReleaseTime: p(4, 9, f32),
  HoldTime: p(4, 10, f32),
  DynamicGainCeiling: p(4, 11, f32),
  DynamicGainFloor: p(4, 12, f32),
  KneeParameter: p(4, 13, f32),
  Slope: p(4, 14, f32),
})
export const OcaDynamicsDetector = defineClass('1.1.1.15', 2, OcaActuator, {
  GetLaw: m(4, 1, [], [u8]),
  SetLaw: m(4, 2, [u8], []),
  GetAttackTime: m(4, 3, [], [f32, f32, f32]),
  SetAttackTime: m(4, 4, [f32], []),
  GetReleaseTime: m(4, 5, [], [f32, f32, f32]),
  SetReleaseTime: m(4, 6, [f32], []),
  GetHoldTime: m(4, 7, [], [f32, f32, f32]),
  SetHoldTime: m(4, 8, [f32], []),
  SetMultiple: m(4, 9, [u16, u8, f32, f32, f32], []),
}, {
  Law: p(4, 1, u8),
  AttackTime: p(4, 2, f32),
  ReleaseTime: p(4, 3, f32),
  HoldTime: p(4, 4, f32),
})
export const OcaDynamicsCurve = defineClass('1.1.1.16', 2, OcaActuator, {
  GetNSegments: m(4, 1, [], [u8, u8, u8]),
  SetNSegments: m(4, 2, [u8], []),
  GetThreshold: m(4, 3, [], [list(dbr), f32, f32]),
  SetThreshold: m(4, 4, [list(dbr)], []),
  GetSlope: m(4, 5, [], [list(f32), list(f32), list(f32)]),
  SetSlope: m(4, 6, [list(f32)], []),
  GetKneeParameter: m(4, 7, [], [list(f32), list(f32), list(f32)]),
  SetKneeParameter: m(4, 8, [list(f32)], []),
  GetDynamicGainCeiling: m(4, 9, [], [f32, f32, f32]),
  SetDynamicGainCeiling: m(4, 10, [f32], []),
  GetDynamicGainFloor: m(4, 11, [], [f32, f32, f32]),
  SetDynamicGainFloor: m(4, 12, [f32], []),
  SetMultiple: m(4, 13, [u16, u8, list(dbr), list(f32), list(f32), f32, f32], []),
}, {
  NSegments: p(4, 1, u8),
  Threshold: p(4, 2, list(dbr)),
  Slope: p(4, 3, list(f32)),
  KneeParameter: p(4, 4, list(f32)),
  DynamicGainFloor: p(4, 5, f32),
  DynamicGainCeiling: p(4, 6, f32),
})
export const OcaSignalGenerator = defineClass('1.1.1.17', 2, OcaActuator, {
  GetFrequency1: m(4, 1, [], [f32, f32, f32]),
  SetFrequency1: m(4, 2, [f32], []),
  GetFrequency2: m(4, 3, [], [f32, f32, f32]),
  SetFrequency2: m(4, 4, [f32], []),
  GetLevel: m(4, 5, [], [f32, f32, f32]),
  SetLevel: m(4, 6, [f32], []),
  GetWaveform: m(4, 7, [], [u8]),
  SetWaveform: m(4, 8, [u8], []),
  GetSweepType: m(4, 9, [], [u8]),
  SetSweepType: m(4, 10, [u8], []),
  GetSweepTime: m(4, 11, [], [f32, f32, f32]),
  SetSweepTime: m(4, 12, [f32], []),
  GetSweepRepeat: m(4, 13, [], [bool]),
  SetSweepRepeat: m(4, 14, [bool], []),
  GetGenerating: m(4, 15, [], [bool]),
  Start: m(4, 16, [], []),
  Stop: m(4, 17, [], []),
  SetMultiple: m(4, 18, [u16, f32, f32, f32, u8, u8, f32, bool], []),
}, {
  Frequency1: p(4, 1, f32),
  Frequency2: p(4, 2, f32),
  Level: p(4, 3, f32),
  Waveform: p(4, 4, u8),
  SweepType: p(4, 5, u8),
  SweepTime: p(4, 6, f32),
  SweepRepeat: p(4, 7, bool),
  Generating: p(4, 8, bool),
})
export const OcaSignalInput = defineClass('1.1.1.18', 2, OcaActuator, {}, {})
export const OcaSignalOutput = defineClass('1.1.1.19', 2, OcaActuator, {}, {})
export const OcaTemperatureActuator = defineClass('1.1.1.20', 2, OcaActuator, {
  GetTemperature: m(4, 1, [], [f32, f32, f32]),
  SetTemperature: m(4, 2, [f32], []),
}, {
  Temperature: p(4, 1, f32),
})
export const OcaIdentificationActuator = defineClass('1.1.1.21', 2, OcaActuator, {
  GetActive: m(4, 1, [], [bool]),
  SetActive: m(4, 2, [bool], []),
}, {
  Active: p(4, 1, bool),
})
export const OcaSummingPoint = defineClass('1.1.1.22', 1, OcaActuator, {}, {})
export const OcaDelayExtended = defineClass('1.1.1.7.1', 2, OcaDelay, {
  GetDelayValue: m(5, 1, [], [delayValue, delayValue, delayValue]),
  SetDelayValue: m(5, 2, [delayValue], []),
  GetDelayValueConverted: m(5, 3, [u8], [delayValue]),
}, {
  DelayValue: p(5, 1, delayValue),
})
