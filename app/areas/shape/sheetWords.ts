import type { SheetRow } from '~~/core/documents'
import { phrase } from '~/parts/phrase'
import type { Label } from '~~/core/words'

const labels: Readonly<Record<string, Label>> = {
  'name': 'sheetRow.name',
  'low': 'sheetRow.low',
  'high': 'sheetRow.high',
  'sensitivity': 'sheetRow.sensitivity',
  'impedance': 'sheetRow.impedance',
  'power': 'sheetRow.power',
  'gain': 'sheetRow.gain',
  'delay': 'sheetRow.delay',
  'polarity': 'sheetRow.polarity',
  'high-pass': 'sheetRow.highPass',
  'low-pass': 'sheetRow.lowPass',
  'limiter': 'sheetRow.limiter',
}

/** What a line of a sheet is called on the screen; in the text table it has a name that no language changes. */
export function labelOf({ id, label }: SheetRow): string {
  const filter = /^eq-(\d+)$/.exec(id)
  if (filter) return phrase('sheetRow.filter', { number: filter[1]! })
  return labels[id] ? phrase(labels[id]) : label
}
