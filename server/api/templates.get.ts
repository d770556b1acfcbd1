import { templateIds, templates } from '../store/templates'

export default defineEventHandler(() =>
  templateIds.map(id => ({ id, name: templates[id].name, about: templates[id].about })))
