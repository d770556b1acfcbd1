import { bool, f32, list, text, u16, u32, u8 } from '../codecs'
import { classId, classIdentification, port, portId } from '../structures'
import { defineClass, m, p, noClass } from './define'

/** The classes that all others stand below (AES70-2018). */
export const OcaRoot = defineClass('1', 2, noClass, {
  GetClassIdentification: m(1, 1, [], [classIdentification]),
  GetLockable: m(1, 2, [], [bool]),
  LockTotal: m(1, 3, [], []),
  Unlock: m(1, 4, [], []),
  GetRole: m(1, 5, [], [text]),
  LockReadonly: m(1, 6, [], []),
}, {
  ClassID: p(1, 1, classId),
  ClassVersion: p(1, 2, u16),
  ObjectNumber: p(1, 3, u32),
  Lockable: p(1, 4, bool),
  Role: p(1, 5, text),
})
export const OcaWorker = defineClass('1.1', 2, OcaRoot, {
  GetEnabled: m(2, 1, [], [bool]),
  SetEnabled: m(2, 2, [bool], []),
  AddPort: m(2, 3, [text, u8], [portId]),
  DeletePort: m(2, 4, [portId], []),
  GetPorts: m(2, 5, [], [list(port)]),
  GetPortName: m(2, 6, [portId], [text]),
  SetPortName: m(2, 7, [portId, text], []),
  GetLabel: m(2, 8, [], [text]),
  SetLabel: m(2, 9, [text], []),
  GetOwner: m(2, 10, [], [u32]),
  GetLatency: m(2, 11, [], [f32]),
  SetLatency: m(2, 12, [f32], []),
  GetPath: m(2, 13, [], [list(text), list(u32)]),
}, {
  Enabled: p(2, 1, bool),
  Ports: p(2, 2, list(port)),
  Label: p(2, 3, text),
  Owner: p(2, 4, u32),
  Latency: p(2, 5, f32),
})
export const OcaAgent = defineClass('1.2', 2, OcaRoot, {
  GetLabel: m(2, 1, [], [text]),
  SetLabel: m(2, 2, [text], []),
  GetOwner: m(2, 3, [], [u32]),
  GetPath: m(2, 4, [], [list(text), list(u32)]),
}, {
  Label: p(2, 1, text),
  Owner: p(2, 2, u32),
})
export const OcaManager = defineClass('1.3', 2, OcaRoot, {}, {})
