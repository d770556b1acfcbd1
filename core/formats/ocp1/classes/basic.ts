import { bits, bool, f32, f64, i16, i32, i64, i8, text, u16, u32, u64, u8 } from '../codecs'
import { defineClass, m, p } from './define'
import { OcaActuator } from './actuators'
import { OcaSensor } from './sensors'

/** Settings and readings of a plain type (AES70-2018). */
export const OcaBasicActuator = defineClass('1.1.1.1', 2, OcaActuator, {}, {})
export const OcaBasicSensor = defineClass('1.1.2.1', 2, OcaSensor, {}, {})
export const OcaBooleanActuator = defineClass('1.1.1.1.1', 2, OcaBasicActuator, {
  GetSetting: m(5, 1, [], [bool]),
  SetSetting: m(5, 2, [bool], []),
}, {
  Setting: p(5, 1, bool),
})
export const OcaInt8Actuator = defineClass('1.1.1.1.2', 2, OcaBasicActuator, {
  GetSetting: m(5, 1, [], [i8, i8, i8]),
  SetSetting: m(5, 2, [i8], []),
}, {
  Setting: p(5, 1, i8),
})
export const OcaInt16Actuator = defineClass('1.1.1.1.3', 2, OcaBasicActuator, {
  GetSetting: m(5, 1, [], [i16, i16, i16]),
  SetSetting: m(5, 2, [i16], []),
}, {
  Setting: p(5, 1, i16),
})
export const OcaInt32Actuator = defineClass('1.1.1.1.4', 2, OcaBasicActuator, {
  GetSetting: m(5, 1, [], [i32, i32, i32]),
  SetSetting: m(5, 2, [i32], []),
}, {
  Setting: p(5, 1, i32),
})
export const OcaInt64Actuator = defineClass('1.1.1.1.5', 2, OcaBasicActuator, {
  GetSetting: m(5, 1, [], [i64, i64, i64]),
  SetSetting: m(5, 2, [i64], []),
}, {
  Setting: p(5, 1, i64),
})
export const OcaUint8Actuator = defineClass('1.1.1.1.6', 2, OcaBasicActuator, {
  GetSetting: m(5, 1, [], [u8, u8, u8]),
  SetSetting: m(5, 2, [u8], []),
}, {
  Setting: p(5, 1, u8),
})
export const OcaUint16Actuator = defineClass('1.1.1.1.7', 2, OcaBasicActuator, {
  GetSetting: m(5, 1, [], [u16, u16, u16]),
  SetSetting: m(5, 2, [u16], []),
}, {
  Setting: p(5, 1, u16),
})
export const OcaUint32Actuator = defineClass('1.1.1.1.8', 2, OcaBasicActuator, {
  GetSetting: m(5, 1, [], [u32, u32, u32]),
  SetSetting: m(5, 2, [u32], []),
}, {
  Setting: p(5, 1, u32),
})
export const OcaUint64Actuator = defineClass('1.1.1.1.9', 2, OcaBasicActuator, {
  GetSetting: m(5, 1, [], [u64, u64, u64]),
  SetSetting: m(5, 2, [u64], []),
}, {
  Setting: p(5, 1, u64),
})
export const OcaFloat32Actuator = defineClass('1.1.1.1.10', 2, OcaBasicActuator, {
  GetSetting: m(5, 1, [], [f32, f32, f32]),
  SetSetting: m(5, 2, [f32], []),
}, {
  Setting: p(5, 1, f32),
})
export const OcaFloat64Actuator = defineClass('1.1.1.1.11', 2, OcaBasicActuator, {
  GetSetting: m(5, 1, [], [f64, f64, f64]),
  SetSetting: m(5, 2, [f64], []),
}, {
  Setting: p(5, 1, f64),
})
export const OcaStringActuator = defineClass('1.1.1.1.12', 2, OcaBasicActuator, {
  GetSetting: m(5, 1, [], [text]),
  SetSetting: m(5, 2, [text], []),
  GetMaxLen: m(5, 3, [], [u16]),
}, {
  Setting: p(5, 1, text),
  MaxLen: p(5, 2, u16),
})
export const OcaBitstringActuator = defineClass('1.1.1.1.13', 2, OcaBasicActuator, {
  GetNrBits: m(5, 1, [], [u16]),
  GetBit: m(5, 2, [u16], [bool]),
  SetBit: m(5, 3, [u16, bool], []),
  GetBitstring: m(5, 4, [], [bits]),
  SetBitstring: m(5, 5, [bits], []),
}, {
  Bitstring: p(5, 1, bits),
})
export const OcaBooleanSensor = defineClass('1.1.2.1.1', 2, OcaBasicSensor, {
  GetReading: m(5, 1, [], [bool]),
}, {
  Reading: p(5, 1, bool),
})
export const OcaInt8Sensor = defineClass('1.1.2.1.2', 2, OcaBasicSensor, {
  GetReading: m(5, 1, [], [i8, i8, i8]),
}, {
  Reading: p(5, 1, i8),
})
export const OcaInt16Sensor = defineClass('1.1.2.1.3', 2, OcaBasicSensor, {
  GetReading: m(5, 1, [], [i16, i16, i16]),
}, {
  Reading: p(5, 1, i16),
})
export const OcaInt32Sensor = defineClass('1.1.2.1.4', 2, OcaBasicSensor, {
  GetReading: m(5, 1, [], [i32, i32, i32]),
}, {
  Reading: p(5, 1, i32),
})
export const OcaInt64Sensor = defineClass('1.1.2.1.5', 2, OcaBasicSensor, {
  GetReading: m(5, 1, [], [i64, i64, i64]),
}, {
  Reading: p(5, 1, i64),
})
export const OcaUint8Sensor = defineClass('1.1.2.1.6', 2, OcaBasicSensor, {
  GetReading: m(5, 1, [], [u8, u8, u8]),
}, {
  Reading: p(5, 1, u8),
})
export const OcaUint16Sensor = defineClass('1.1.2.1.7', 2, OcaBasicSensor, {
  GetReading: m(5, 1, [], [u16, u16, u16]),
}, {
  Reading: p(5, 1, u16),
})
export const OcaUint32Sensor = defineClass('1.1.2.1.8', 2, OcaBasicSensor, {
  GetReading: m(5, 1, [], [u32, u32, u32]),
}, {
  Reading: p(5, 1, u32),
})
export const OcaUint64Sensor = defineClass('1.1.2.1.9', 2, OcaBasicSensor, {
  GetReading: m(5, 1, [], [u64, u64, u64]),
}, {
  Reading: p(5, 1, u64),
})
export const OcaFloat32Sensor = defineClass('1.1.2.1.10', 2, OcaBasicSensor, {
  GetReading: m(5, 1, [], [f32, f32, f32]),
}, {
  Reading: p(5, 1, f32),
})
export const OcaFloat64Sensor = defineClass('1.1.2.1.11', 2, OcaBasicSensor, {
  GetReading: m(5, 1, [], [f64, f64, f64]),
}, {
  Reading: p(5, 1, f64),
})
export const OcaStringSensor = defineClass('1.1.2.1.12', 2, OcaBasicSensor, {
  GetString: m(5, 1, [], [text]),
  GetMaxLen: m(5, 2, [], [u16]),
  SetMaxLen: m(5, 3, [u16], []),
}, {
  String: p(5, 1, text),
  MaxLen: p(5, 2, u16),
})
export const OcaBitstringSensor = defineClass('1.1.2.1.13', 2, OcaBasicSensor, {
  GetNrBits: m(5, 1, [], [u16]),
  GetBit: m(5, 2, [u16], [u8]),
  GetBitString: m(5, 3, [], [bits]),
}, {
  BitString: p(5, 1, bits),
})
