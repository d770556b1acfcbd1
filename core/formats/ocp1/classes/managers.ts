import { blob, bool, fixedBlob, list, pairs, text, u16, u32, u64, u8 } from '../codecs'
import {
  eventRef, libVolIdentifier, libVolType, libraryIdentifier, managerDescriptor, methodRef, modelDescription,
  modelGuid, propertyId, ptpTime, task, taskStatus, version,
} from '../structures'
import { defineClass, m, p } from './define'
import { OcaManager } from './root'

/** The managers: of the device, subscriptions, networks, presets, time (AES70-2018). */
export const OcaDeviceManager = defineClass('1.3.1', 2, OcaManager, {
  GetOcaVersion: m(3, 1, [], [u16]),
  GetModelGUID: m(3, 2, [], [modelGuid]),
  GetSerialNumber: m(3, 3, [], [text]),
  GetDeviceName: m(3, 4, [], [text]),
  SetDeviceName: m(3, 5, [text], []),
  GetModelDescription: m(3, 6, [], [modelDescription]),
  GetDeviceRole: m(3, 7, [], [text]),
  SetDeviceRole: m(3, 8, [text], []),
  GetUserInventoryCode: m(3, 9, [], [text]),
  SetUserInventoryCode: m(3, 10, [text], []),
  GetEnabled: m(3, 11, [], [bool]),
  SetEnabled: m(3, 12, [bool], []),
  GetState: m(3, 13, [], [u16]),
  SetResetKey: m(3, 14, [fixedBlob(16), blob], []),
  GetResetCause: m(3, 15, [], [u8]),
  ClearResetCause: m(3, 16, [], []),
  GetMessage: m(3, 17, [], [text]),
  SetMessage: m(3, 18, [text], []),
  GetManagers: m(3, 19, [], [list(managerDescriptor)]),
  GetDeviceRevisionID: m(3, 20, [], [text]),
}, {
  ModelGUID: p(3, 1, modelGuid),
  SerialNumber: p(3, 2, text),
  ModelDescription: p(3, 3, modelDescription),
  DeviceName: p(3, 4, text),
  OcaVersion: p(3, 5, u16),
  DeviceRole: p(3, 6, text),
  UserInventoryCode: p(3, 7, text),
  Enabled: p(3, 8, bool),
  State: p(3, 9, u16),
  Busy: p(3, 10, bool),
  ResetCause: p(3, 11, u8),
  Message: p(3, 12, text),
  Managers: p(3, 13, list(managerDescriptor)),
  DeviceRevisionID: p(3, 14, text),
})
export const OcaSecurityManager = defineClass('1.3.2', 2, OcaManager, {
  EnableControlSecurity: m(3, 1, [], []),
  DisableControlSecurity: m(3, 2, [], []),
  ChangePreSharedKey: m(3, 3, [text, blob], []),
  AddPreSharedKey: m(3, 4, [text, blob], []),
  DeletePreSharedKey: m(3, 5, [text], []),
}, {
  secureControlData: p(3, 1, bool),
})
export const OcaFirmwareManager = defineClass('1.3.3', 2, OcaManager, {
  GetComponentVersions: m(3, 1, [], [list(version)]),
  StartUpdateProcess: m(3, 2, [], []),
  BeginActiveImageUpdate: m(3, 3, [u16], []),
  AddImageData: m(3, 4, [u32, blob], []),
  VerifyImage: m(3, 5, [blob], []),
  EndActiveImageUpdate: m(3, 6, [], []),
  BeginPassiveComponentUpdate: m(3, 7, [u16, blob, text], []),
  EndUpdateProcess: m(3, 8, [], []),
}, {
  ComponentVersions: p(3, 1, list(version)),
})
export const OcaSubscriptionManager = defineClass('1.3.4', 2, OcaManager, {
  AddSubscription: m(3, 1, [eventRef, methodRef, blob, u8, blob], []),
  RemoveSubscription: m(3, 2, [eventRef, methodRef], []),
  DisableNotifications: m(3, 3, [], []),
  ReEnableNotifications: m(3, 4, [], []),
  AddPropertyChangeSubscription: m(3, 5, [u32, propertyId, methodRef, blob, u8, blob], []),
  RemovePropertyChangeSubscription: m(3, 6, [u32, propertyId, methodRef], []),
  GetMaximumSubscriberContextLength: m(3, 7, [], [u16]),
}, {
  State: p(3, 1, u8),
})
export const OcaPowerManager = defineClass('1.3.5', 2, OcaManager, {
  GetState: m(3, 1, [], [u8]),
  SetState: m(3, 2, [u8], []),
  GetPowerSupplies: m(3, 3, [], [list(u32)]),
  GetActivePowerSupplies: m(3, 4, [], [list(u32)]),
  ExchangePowerSupply: m(3, 5, [u32, u32, bool], []),
  GetAutoState: m(3, 6, [], [bool]),
}, {
  State: p(3, 1, u8),
  PowerSupplies: p(3, 2, list(u32)),
  ActivePowerSupplies: p(3, 3, list(u32)),
  AutoState: p(3, 4, bool),
  TargetState: p(3, 5, u8),
})
export const OcaNetworkManager = defineClass('1.3.6', 2, OcaManager, {
  GetNetworks: m(3, 1, [], [list(u32)]),
  GetStreamNetworks: m(3, 2, [], [list(u32)]),
  GetControlNetworks: m(3, 3, [], [list(u32)]),
  GetMediaTransportNetworks: m(3, 4, [], [list(u32)]),
}, {
  Networks: p(3, 1, list(u32)),
  StreamNetworks: p(3, 2, list(u32)),
  ControlNetworks: p(3, 3, list(u32)),
  MediaTransportNetworks: p(3, 4, list(u32)),
})
export const OcaMediaClockManager = defineClass('1.3.7', 2, OcaManager, {
  GetClocks: m(3, 1, [], [list(u32)]),
  GetMediaClockTypesSupported: m(3, 2, [], [list(u8)]),
  GetClock3s: m(3, 3, [], [list(u32)]),
}, {
  ClockSourceTypesSupported: p(3, 1, list(u8)),
  Clocks: p(3, 2, list(u32)),
  Clock3s: p(3, 3, list(u32)),
})
export const OcaLibraryManager = defineClass('1.3.8', 2, OcaManager, {
  AddLibrary: m(3, 1, [libVolType], [libraryIdentifier]),
  DeleteLibrary: m(3, 2, [u32], []),
  GetLibraryCount: m(3, 3, [libVolType], [u16]),
  GetLibraryList: m(3, 4, [libVolType], [list(libraryIdentifier)]),
  GetCurrentPatch: m(3, 5, [], [libVolIdentifier]),
  ApplyPatch: m(3, 6, [libVolIdentifier], []),
}, {
  Libraries: p(3, 1, list(libraryIdentifier)),
  CurrentPatch: p(3, 2, libVolIdentifier),
})
export const OcaAudioProcessingManager = defineClass('1.3.9', 2, OcaManager, {}, {})
export const OcaDeviceTimeManager = defineClass('1.3.10', 2, OcaManager, {
  GetDeviceTimeNTP: m(3, 1, [], [u64]),
  SetDeviceTimeNTP: m(3, 2, [u64], []),
  GetTimeSources: m(3, 3, [], [list(u32)]),
  GetCurrentDeviceTimeSource: m(3, 4, [], [u32]),
  SetCurrentDeviceTimeSource: m(3, 5, [u32], []),
  GetDeviceTimePTP: m(3, 6, [], [ptpTime]),
  SetDeviceTimePTP: m(3, 7, [ptpTime], []),
}, {
  TimeSources: p(3, 1, list(u32)),
  CurrentDeviceTimeSource: p(3, 2, u32),
})
export const OcaTaskManager = defineClass('1.3.11', 1, OcaManager, {
  Enable: m(3, 1, [bool], []),
  ControlAllTasks: m(3, 2, [u8, blob], []),
  ControlTaskGroup: m(3, 3, [u16, u8, blob], []),
  ControlTask: m(3, 4, [u32, u8, blob], []),
  GetState: m(3, 5, [], [u8]),
  GetTaskStatuses: m(3, 6, [], [taskStatus]),
  GetTaskStatus: m(3, 7, [u32], [taskStatus]),
  AddTask: m(3, 8, [task], [task]),
  GetTasks: m(3, 9, [], [pairs(u32, task)]),
  GetTask: m(3, 10, [u32], [task]),
  SetTask: m(3, 11, [u32, task], []),
  DeleteTask: m(3, 12, [u32], []),
}, {
  State: p(3, 1, u8),
  Tasks: p(3, 2, pairs(u32, task)),
})
export const OcaCodingManager = defineClass('1.3.12', 1, OcaManager, {
  GetAvailableEncodingSchemes: m(3, 1, [], [pairs(u16, text)]),
  GetAvailableDecodingSchemes: m(3, 2, [], [pairs(u16, text)]),
}, {
  AvailableEncodingSchemes: p(3, 1, pairs(u16, text)),
  AvailableDecodingSchemes: p(3, 2, pairs(u16, text)),
})
export const OcaDiagnosticManager = defineClass('1.3.13', 1, OcaManager, {
  GetLockStatus: m(3, 1, [u32], [text]),
}, {})
