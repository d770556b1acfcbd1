import { blob, bool, f32, fixedBlob, list, pairs, text, u16, u32, u64, u8, struct, type ValueOf } from './codecs'

/**
 * Structures of AES70-2018 as they stand in bytes. Object numbers are `object`, levels and numbers of methods,
 * properties and events `level` and `index`.
 */
export const classId = list(u16)
export const classIdentification = struct({ classId: classId, classVersion: u16 })
export const objectIdentification = struct({ object: u32, classIdentification: classIdentification })
export const blockMember = struct({ memberObjectIdentification: objectIdentification, container: u32 })
export const dbr = struct({ value: f32, ref: f32 })
export const delayValue = struct({ delayValue: f32, delayUnit: u8 })
export const eventId = struct({ level: u16, index: u16 })
export const eventRef = struct({ emitter: u32, eventId: eventId })
export const globalTypeIdentifier = struct({ authority: fixedBlob(3), id: u32 })
const objectPath = struct({ hostId: blob, object: u32 })
export const grouperCitizen = struct({ index: u16, objectPath: objectPath, online: bool })
export const grouperEnrollment = struct({ groupIndex: u16, citizenIndex: u16 })
export const grouperGroup = struct({ index: u16, name: text, proxyObject: u32 })
export const impedance = struct({ magnitude: f32, phase: f32 })
export const libVolType = struct({ authority: fixedBlob(3), id: u32 })
export const ptpTime = struct({ negative: bool, seconds: u64, nanoseconds: u32 })
const libVolMetadata = struct({
  name: text,
  volType: libVolType,
  access: u8,
  version: u32,
  creator: text,
  upDate: ptpTime,
})
export const libVol = struct({ metadata: libVolMetadata, data: blob })
export const libVolData_ParamSet = struct({ targetBlockType: u32, parData: blob })
export const libVolIdentifier = struct({ library: u32, id: u32 })
export const libraryIdentifier = struct({ type: libVolType, object: u32 })
export const managerDescriptor = struct({ objectNumber: u32, name: text, classId: classId, classVersion: u16 })
export const mediaClockRate = struct({ nominalRate: f32, pullRange: f32, accuracy: f32, jitterMax: f32 })
export const mediaCoding = struct({ codingSchemeId: u16, codecParameters: text, clockObject: u32 })
export const mediaConnection = struct({
  secure: bool,
  streamParameters: blob,
  streamCastMode: u8,
  streamChannelCount: u16,
})
export const mediaConnectorStatus = struct({ connectorId: u16, state: u8, errorCode: u16 })
export const portId = struct({ mode: u8, index: u16 })
export const mediaSinkConnector = struct({
  idInternal: u16,
  idExternal: text,
  connection: mediaConnection,
  availableCodings: list(mediaCoding),
  pinCount: u16,
  channelPinMap: pairs(u16, portId),
  alignmentLevel: f32,
  alignmentGain: f32,
  currentCoding: mediaCoding,
})
export const mediaSourceConnector = struct({
  idInternal: u16,
  idExternal: text,
  connection: mediaConnection,
  availableCodings: list(mediaCoding),
  pinCount: u16,
  channelPinMap: pairs(u16, portId),
  alignmentLevel: f32,
  currentCoding: mediaCoding,
})
export const methodId = struct({ level: u16, index: u16 })
export const methodRef = struct({ object: u32, methodId: methodId })
export const modelDescription = struct({ manufacturer: text, name: text, version: text })
export const modelGuid = struct({ reserved: fixedBlob(1), maker: fixedBlob(3), modelCode: fixedBlob(4) })
export const networkStatistics = struct({ rxPacketErrors: u32, txPacketErrors: u32 })
export const networkSystemInterfaceDescriptor = struct({ systemInterfaceParameters: blob, myNetworkAddress: blob })
export const networkSystemInterfaceID = struct({ systemInterfaceHandle: blob, myNetworkAddress: blob })
export const objectSearchResult = struct({
  object: u32,
  classIdentification: classIdentification,
  containerPath: list(u32),
  role: text,
  label: text,
})
export const port = struct({ owner: u32, id: portId, name: text })
export const positionDescriptor = struct({ coordinateSystem: u8, fieldFlags: u16, values: f32 })
export const propertyId = struct({ level: u16, index: u16 })
const propertyDescriptor = struct({
  propertyId: propertyId,
  baseDataType: u8,
  getterMethodId: methodId,
  setterMethodId: methodId,
})
export const property = struct({ object: u32, descriptor: propertyDescriptor })
export const protoObjectIdentification = struct({ proto: u32, classIdentification: classIdentification })
export const protoPortID = struct({ mode: u8, index: u16 })
export const protoPort = struct({ owner: u32, protoId: protoPortID, name: text })
export const protoSignalPath = struct({ sourceProtoPort: protoPort, sinkProtoPort: protoPort })
export const signalPath = struct({ sourcePort: port, sinkPort: port })
const streamConnectorIdentification = struct({
  hostId: blob,
  networkAddress: blob,
  nodeId: blob,
  streamConnectorId: blob,
})
export const stream = struct({
  errorNumber: u16,
  idAdvertised: blob,
  index: u16,
  label: text,
  localConnectorObject: u32,
  priority: u16,
  remoteConnectorIdentification: streamConnectorIdentification,
  secure: bool,
  status: u8,
  streamParameters: blob,
  streamType: u8,
})
export const task = struct({
  id: u32,
  label: text,
  programId: libVolIdentifier,
  groupId: u16,
  timeMode: u8,
  timeSourceObject: u32,
  startTime: ptpTime,
  duration: ptpTime,
  applicationSpecificParameters: blob,
})
export const taskStatus = struct({ id: u32, state: u8, errorCode: u16 })
export const transferFunction = struct({ frequency: list(f32), amplitude: list(f32), phase: list(f32) })
export const version = struct({ major: u32, minor: u32, build: u32, component: u16 })

export type MethodId = ValueOf<typeof methodId>
export type EventId = ValueOf<typeof eventId>
export type PropertyId = ValueOf<typeof propertyId>
