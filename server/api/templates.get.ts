import { templateIds, templates } from '../rig/templates'

/** What a new site can begin with. */
export default defineEventHandler(() =>
  templateIds.map(id => ({ id, name: templates[id].name, about: templates[id].about })),
)
