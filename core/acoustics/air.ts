import { octaveBands } from './materials'
import type { Air } from './schemas'
import type { Celsius, Decibels, Hertz, Metres, MetresPerSecond } from '../units'

const kelvin = (t: Celsius) => t + 273.15
const reference = { temperature: 293.15, triplePoint: 273.16, pressure: 101.325 }

/** Molar part of water vapour in percent. Source: ISO 9613-1, eqs (B.1) to (B.3). */
function waterIn({ temperature, humidity, pressure }: Air): number {
  const saturation = 10 ** (-6.8346 * (reference.triplePoint / kelvin(temperature)) ** 1.261 + 4.6151)
  return (humidity * saturation) / (pressure / reference.pressure)
}

/** Molar masses of water and dry air. */
const waterOverAir = 18.015 / 28.964

/**
 * Speed of sound: 343.2 · √(T/293.15) in dry air (ISO 9613-1, eq. (A.5)); water vapour makes air lighter and its
 * ratio of specific heats smaller, by the laws of ideal gases, together up to 0.5 % faster in a hall.
 */
export function speedOfSound(air: Air): MetresPerSecond {
  const water = waterIn(air) / 100
  const stiffer = (7 + water) / (5 + water) / (7 / 5)
  const heavier = 1 - water * (1 - waterOverAir)
  return 343.2 * Math.sqrt(((kelvin(air.temperature) / reference.temperature) * stiffer) / heavier)
}

/** Pure-tone attenuation in dB a metre. Source: ISO 9613-1, eqs (3) to (5) and (B.1) to (B.3). */
export function airLoss(f: Hertz, air: Air): Decibels {
  const { temperature, pressure } = air
  const t = kelvin(temperature) / reference.temperature
  const p = pressure / reference.pressure
  const water = waterIn(air)
  const oxygen = p * (24 + (4.04e4 * water * (0.02 + water)) / (0.391 + water))
  const nitrogen = p * t ** -0.5 * (9 + 280 * water * Math.exp(-4.17 * (t ** (-1 / 3) - 1)))
  const kelvins = kelvin(temperature)
  return (
    8.686
    * f
    * f
    * ((1.84e-11 / p) * Math.sqrt(t)
      + t ** -2.5
      * ((0.01275 * Math.exp(-2239.1 / kelvins)) / (oxygen + (f * f) / oxygen)
        + (0.1068 * Math.exp(-3352 / kelvins)) / (nitrogen + (f * f) / nitrogen)))
  )
}

/**
 * Static pressure in kPa at a height above sea level: the standard atmosphere (ISO 2533), 101.325 · (1 −
 * 2.25577e-5 h)^5.25588.
 */
export const pressureAt = (height: Metres): number => 101.325 * (1 - 2.25577e-5 * height) ** 5.25588

/** The height above sea level at which the standard atmosphere has a pressure in kPa: the inverse of `pressureAt`. */
export const heightAt = (pressure: number): Metres => (1 - (pressure / 101.325) ** (1 / 5.25588)) / 2.25577e-5

/** Air's energy attenuation m per metre in each octave: what shortens decay times. */
export const airEnergyLoss = (air: Air): number[] =>
  octaveBands.map(f => airLoss(f, air) / (10 * Math.log10(Math.E)))
