/** What is said of typed values. */
export const units = {
  'units.typeAValueFor': 'Type a value, for example {example}.',
  'units.canBeOrType': '“{text}” can be {two} or {two2}: type one of them.',
  'units.isNotUnderstoodTry': '“{text}” is not understood. Try {example}.',
  'units.msMFtOr': '4.5 ms, 3 m, 10 ft or 216 samples',
} as const
