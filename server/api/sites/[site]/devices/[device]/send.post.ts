import { drive } from '../../../../../links/links'

/** Sends every unsent value and reads back. */
export default defineEventHandler(async (event) => {
  const { site, device, number } = await deviceAsked(event)
  return drive(site, device, { paths: null, readBack: true, number })
})
