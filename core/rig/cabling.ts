import { endpointKey, sameEndpoint, type Endpoint, type Wiring } from './wiring'
import { refusal } from '../words'

/**
 * Channels out of what is typed: '3', '1-4', '1–4, 7' (counted from 1), in the order in which they are typed.
 * @param text what was typed
 * @param count channels that there are
 * @returns channels counted from 0, each once
 * @throws Refusal for what is no list of channels, or names one that is not there
 */
export function channelsIn(text: string, count: number): number[] {
  const parts = text.replace(/\s*[-–]\s*/g, '-').split(/[,;\s]+/).filter(Boolean)
  if (!parts.length) throw refusal('cabling.noChannels')
  const found = parts.flatMap((part) => {
    const [, from, to = from] = /^(\d{1,4})(?:-(\d{1,4}))?$/.exec(part) ?? []
    if (from === undefined || to === undefined) throw refusal('cabling.noRange', { part })
    const [first, last] = [Number(from), Number(to)]
    const step = last < first ? -1 : 1
    return Array.from({ length: Math.abs(last - first) + 1 }, (_, n) => first + step * n)
  })
  const beyond = found.find(n => n < 1 || n > count)
  if (beyond !== undefined) throw refusal('cabling.notThere', { channel: beyond, count })
  return [...new Set(found)].map(n => n - 1)
}

/**
 * Cables from outputs to inputs, one by one; a single output goes to every input (a Y cable).
 * @returns for each input (`endpointKey`) its output
 * @throws Refusal where there are more of the one than of the other
 */
export function cablesBetween(outputs: readonly Endpoint[], inputs: readonly Endpoint[]): Record<string, Endpoint> {
  if (outputs.length !== 1 && outputs.length !== inputs.length)
    throw refusal('cabling.uneven', { outputs: outputs.length, inputs: inputs.length })
  return Object.fromEntries(inputs.map((input, n) => [endpointKey(input), outputs[outputs.length === 1 ? 0 : n]!]))
}

/** The inputs that an output's cables lead to. */
export const inputsBehind = ({ cables }: Pick<Wiring, 'cables'>, output: Endpoint): string[] =>
  Object.keys(cables).filter(input => sameEndpoint(cables[input]!, output))
