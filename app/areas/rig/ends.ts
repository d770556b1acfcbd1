import { sameEndpoint, type Endpoint } from '~~/core/rig'
import { useSite } from '~/document/site'
import { phrase } from '~/parts/phrase'

/** Connectors by the names of their devices; what comes from outside the rack by that of its feed. */
export function useEnds() {
  const site = useSite()
  function nameOf(end: Endpoint, side: 'inputs' | 'outputs'): string {
    const { device, channel } = end
    const feed = Object.values(site.wiring.feeds).find(f => side === 'outputs' && sameEndpoint(f.from, end))
    if (feed && !site.deviceOf(device)) return feed.name
    const record = site.deviceOf(device)
    const port = record?.capability[side][channel]?.name
    return phrase('rig.endOf', { device: record?.name ?? device, port: port ?? String(channel + 1) })
  }
  /** 'Main L, high band': what a drive leads to. */
  function nameOfDrive(key: string): string {
    const [id, element, band] = key.split(':') as [string, string, string]
    const source = site.sourceOf(id)
    const bands = site.sheetOf(source?.elements[Number(element)]?.sheet ?? '')?.bands ?? []
    const name = source?.name ?? id
    const found = bands.length > 1 ? bands.find(b => b.id === band) : undefined
    return found ? phrase('rig.endOf', { device: name, port: found.name.toLowerCase() }) : name
  }
  return { nameOf, nameOfDrive }
}
