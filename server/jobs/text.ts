const silent = 1e-15

/** Level in dB of a complex value as text has it: -300 where it is silent. */
export const levelOf = (re: number, im: number) => 20 * Math.log10(Math.max(silent, Math.hypot(re, im)))
/** Phase in degrees. */
export const phaseOf = (re: number, im: number) => (Math.atan2(im, re) * 180) / Math.PI
