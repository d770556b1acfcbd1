import 'vitest'

declare module 'vitest' {
  interface AsymmetricMatchersContaining {
    /** A message whose words contain or match what is wanted. */
    saying: (wanted: string | RegExp) => unknown
  }
}
