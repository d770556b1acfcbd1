import { later } from '~/utils/later'

// each plate and inspector comes with its own code, when it is first shown
export const RunPlate = later(() => import('~/areas/align/RunPlate.vue'))
export const SitePlate = later(() => import('~/areas/site/SitePlate.vue'))
export const RigPlate = later(() => import('~/areas/rig/RigPlate.vue'))
export const WatchPlate = later(() => import('~/areas/watch/WatchPlate.vue'))
export const AlignPlate = later(() => import('~/areas/align/AlignPlate.vue'))
export const InputsPanel = later(() => import('~/areas/listen/InputsPanel.vue'))
export const SheetPlate = later(() => import('~/areas/shape/SheetPlate.vue'))
export const LedgerPlate = later(() => import('~/frame/LedgerPlate.vue'))
export const ShapeInspector = later(() => import('~/areas/shape/ShapeInspector.vue'))
export const SiteInspector = later(() => import('~/areas/site/SiteInspector.vue'))
export const AlignInspector = later(() => import('~/areas/align/AlignInspector.vue'))
