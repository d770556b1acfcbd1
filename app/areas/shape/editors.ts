import type { Component } from 'vue'
import type { BlockId } from '~~/core/rig'
import type { Setting } from '~/document/useStrip'
import FirEditor from './FirEditor.vue'
import GraphicEditor from './GraphicEditor.vue'
import LimiterEditor from './LimiterEditor.vue'

/** Editors of blocks that need more than the fields that their definition names. A new one is added here. */
const editors: Partial<Record<BlockId, Component>> = {
  fir: FirEditor,
  graphic: GraphicEditor,
  limiter: LimiterEditor,
}
/** The editor of its own that a block has; undefined where its fields will do. */
export const editorOf = ({ parameter }: Setting): Component | undefined => editors[parameter.kind.kind as BlockId]
