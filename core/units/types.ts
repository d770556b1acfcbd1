/**
 * Units are types. A plain number may be given where a unit is expected, but one unit never passes for another:
 * `const t: Seconds = 3 as Metres` does not compile.
 */
declare const unit: unique symbol
type Quantity<U extends string> = number & { readonly [unit]?: U }

export type Hertz = Quantity<'Hz'>
export type Seconds = Quantity<'s'>
export type Samples = Quantity<'samples'>
export type Metres = Quantity<'m'>
export type Decibels = Quantity<'dB'>
/** RMS voltage. */
export type Volts = Quantity<'V'>
/** dB re 20 µPa. */
export type SoundLevel = Quantity<'dB SPL'>
export type Celsius = Quantity<'°C'>
export type Radians = Quantity<'rad'>
export type Degrees = Quantity<'°'>
export type MetresPerSecond = Quantity<'m/s'>
/** Sound pressure or voltage ratio, 1 = no change. */
export type Ratio = Quantity<'ratio'>
