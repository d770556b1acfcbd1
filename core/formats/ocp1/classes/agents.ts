import { blob, bool, f32, f64, list, pairs, text, u16, u32, u64, u8 } from '../codecs'
import {
  eventRef, grouperCitizen, grouperEnrollment, grouperGroup, libVol, libVolType, positionDescriptor, property,
} from '../structures'
import { defineClass, m, p } from './define'
import { OcaAgent } from './root'

/** What acts on other objects, keeps presets or tells of supplies and time (AES70-2018). */
export const OcaGrouper = defineClass('1.2.2', 2, OcaAgent, {
  AddGroup: m(3, 1, [text], [u16, u32]),
  DeleteGroup: m(3, 2, [u16], []),
  GetGroupCount: m(3, 3, [], [u16]),
  GetGroupList: m(3, 4, [], [list(grouperGroup)]),
  AddCitizen: m(3, 5, [grouperCitizen], [u16]),
  DeleteCitizen: m(3, 6, [u16], []),
  GetCitizenCount: m(3, 7, [], [u16]),
  GetCitizenList: m(3, 8, [], [list(grouperCitizen)]),
  GetEnrollment: m(3, 9, [grouperEnrollment], [bool]),
  SetEnrollment: m(3, 10, [grouperEnrollment, bool], []),
  GetGroupMemberList: m(3, 11, [u16], [list(grouperCitizen)]),
  GetActuatorOrSensor: m(3, 12, [], [bool]),
  SetActuatorOrSensor: m(3, 13, [bool], []),
  GetMode: m(3, 14, [], [u8]),
  SetMode: m(3, 15, [u8], []),
}, {
  ActuatorOrSensor: p(3, 1, bool),
  Groups: p(3, 2, list(grouperGroup)),
  Citizens: p(3, 3, list(grouperCitizen)),
  Enrollments: p(3, 4, list(grouperEnrollment)),
  Mode: p(3, 5, u8),
})
export const OcaRamper = defineClass('1.2.3', 2, OcaAgent, {
  Control: m(3, 1, [u8], []),
  GetState: m(3, 2, [], [u8]),
  GetRampedProperty: m(3, 3, [], [property]),
  SetRampedProperty: m(3, 4, [property], []),
  GetTimeMode: m(3, 5, [], [u8]),
  SetTimeMode: m(3, 6, [u8], []),
  GetStartTime: m(3, 7, [], [u64]),
  SetStartTime: m(3, 8, [u64], []),
  GetDuration: m(3, 9, [], [f32, f32, f32]),
  SetDuration: m(3, 10, [f32], []),
  GetInterpolationLaw: m(3, 11, [], [u8]),
  SetInterpolationLaw: m(3, 12, [u8], []),
  GetGoal: m(3, 13, [], [f64]),
  SetGoal: m(3, 14, [f64], []),
}, {
  State: p(3, 1, u8),
  RampedProperty: p(3, 2, property),
  TimeMode: p(3, 3, u8),
  StartTime: p(3, 4, u64),
  Duration: p(3, 5, f32),
  InterpolationLaw: p(3, 6, u8),
  Goal: p(3, 7, f64),
})
export const OcaNumericObserver = defineClass('1.2.4', 2, OcaAgent, {
  GetLastObservation: m(3, 1, [], [f64]),
  GetState: m(3, 2, [], [u8]),
  GetObservedProperty: m(3, 3, [], [property]),
  SetObservedProperty: m(3, 4, [property], []),
  GetThreshold: m(3, 5, [], [f64]),
  SetThreshold: m(3, 6, [f64], []),
  GetOperator: m(3, 7, [], [u8]),
  SetOperator: m(3, 8, [u8], []),
  GetTwoWay: m(3, 9, [], [bool]),
  SetTwoWay: m(3, 10, [bool], []),
  GetHysteresis: m(3, 11, [], [f64]),
  SetHysteresis: m(3, 12, [f64], []),
  GetPeriod: m(3, 13, [], [f32]),
  SetPeriod: m(3, 14, [f32], []),
}, {
  State: p(3, 1, u8),
  ObservedProperty: p(3, 2, property),
  Threshold: p(3, 3, f64),
  Operator: p(3, 4, u8),
  TwoWay: p(3, 5, bool),
  Hysteresis: p(3, 6, f64),
  Period: p(3, 7, f32),
})
export const OcaLibrary = defineClass('1.2.5', 2, OcaAgent, {
  AddVolume: m(3, 1, [libVol], [u32]),
  ReplaceVolume: m(3, 2, [u32, libVol], []),
  DeleteVolume: m(3, 3, [u32], []),
  GetVolume: m(3, 4, [u32], [libVol]),
  GetVolumeCount: m(3, 5, [], [u16]),
  GetVolumes: m(3, 6, [], [pairs(u32, libVol)]),
  GetAccess: m(3, 7, [], [u8]),
  SetAccess: m(3, 8, [u8], []),
}, {
  VolumeType: p(3, 1, libVolType),
  Access: p(3, 2, u8),
  Volumes: p(3, 3, pairs(u32, libVol)),
})
export const OcaPowerSupply = defineClass('1.2.7', 3, OcaAgent, {
  GetType: m(3, 1, [], [u8]),
  GetModelInfo: m(3, 2, [], [text]),
  GetState: m(3, 3, [], [u8]),
  SetState: m(3, 4, [u8], []),
  GetCharging: m(3, 5, [], [bool]),
  GetLoadFractionAvailable: m(3, 6, [], [f32]),
  GetStorageFractionAvailable: m(3, 7, [], [f32]),
  GetLocation: m(3, 8, [], [u8]),
}, {
  Type: p(3, 1, u8),
  ModelInfo: p(3, 2, text),
  State: p(3, 3, u8),
  Charging: p(3, 4, bool),
  LoadFractionAvailable: p(3, 5, f32),
  StorageFractionAvailable: p(3, 6, f32),
  Location: p(3, 7, u8),
})
export const OcaEventHandler = defineClass('1.2.8', 2, OcaAgent, {
  OnEvent: m(3, 1, [blob, eventRef], []),
}, {})
export const OcaNumericObserverList = defineClass('1.2.9', 2, OcaAgent, {
  GetLastObservation: m(3, 1, [], [list(f64)]),
  GetState: m(3, 2, [], [u8]),
  GetObservedProperties: m(3, 3, [], [list(property)]),
  SetObservedProperties: m(3, 4, [list(property)], []),
  GetThreshold: m(3, 5, [], [f64]),
  SetThreshold: m(3, 6, [f64], []),
  GetOperator: m(3, 7, [], [u8]),
  SetOperator: m(3, 8, [u8], []),
  GetTwoWay: m(3, 9, [], [bool]),
  SetTwoWay: m(3, 10, [bool], []),
  GetHysteresis: m(3, 11, [], [f64]),
  SetHysteresis: m(3, 12, [f64], []),
  GetPeriod: m(3, 13, [], [f32]),
  SetPeriod: m(3, 14, [f32], []),
}, {
  State: p(3, 1, u8),
  ObservedProperties: p(3, 2, list(property)),
  Threshold: p(3, 3, f64),
  Operator: p(3, 4, u8),
  TwoWay: p(3, 5, bool),
  Hysteresis: p(3, 6, f64),
  Period: p(3, 7, f32),
})
export const OcaTimeSource = defineClass('1.2.16', 1, OcaAgent, {
  GetAvailability: m(3, 1, [], [u8]),
  GetProtocol: m(3, 2, [], [u8]),
  SetProtocol: m(3, 3, [u8], []),
  GetParameters: m(3, 4, [], [text]),
  SetParameters: m(3, 5, [text], []),
  GetReferenceType: m(3, 6, [], [u8]),
  SetReferenceType: m(3, 7, [u8], []),
  GetReferenceID: m(3, 8, [], [text]),
  SetReferenceID: m(3, 9, [text], []),
  GetSyncStatus: m(3, 10, [], [u8]),
  Reset: m(3, 11, [], []),
}, {
  Availability: p(3, 1, u8),
  Protocol: p(3, 2, u8),
  Parameters: p(3, 3, text),
  ReferenceType: p(3, 4, u8),
  ReferenceID: p(3, 5, text),
  SyncStatus: p(3, 6, u8),
})
export const OcaPhysicalPosition = defineClass('1.2.17', 1, OcaAgent, {
  GetCoordinateSystem: m(3, 1, [], [u8]),
  GetPositionDescriptorFieldFlags: m(3, 2, [], [u16]),
  GetPositionDescriptor: m(3, 3, [], [positionDescriptor, positionDescriptor, positionDescriptor]),
  SetPositionDescriptor: m(3, 4, [positionDescriptor], []),
}, {
  CoordinateSystem: p(3, 1, u8),
  PositionDescriptorFieldFlags: p(3, 2, u16),
  PositionDescriptor: p(3, 3, positionDescriptor),
})
