import { definePreset } from '@primeuix/themes'
import Aura from '@primeuix/themes/aura'

const pine = {
  50: '#eef5f1',
  100: '#d5e6dd',
  200: '#aecdbd',
  300: '#82b09a',
  400: '#579279',
  500: '#33755c',
  600: '#1f5d47',
  700: '#174a38',
  800: '#12392c',
  900: '#0d2a21',
  950: '#081b15',
}
const brass = {
  50: '#fbf5e4',
  100: '#f5e7bf',
  200: '#ecd48f',
  300: '#e2bf62',
  400: '#d6aa43',
  500: '#b98d2c',
  600: '#967022',
  700: '#73561c',
  800: '#524017',
  900: '#362b11',
  950: '#1f180a',
}

/** PrimeVue in Kovrin's colours: pine on paper by day, brass on pine by night. */
export const kovrinPreset = definePreset(Aura, {
  semantic: {
    primary: pine,
    borderRadius: { none: '0', xs: '2px', sm: '3px', md: '3px', lg: '4px', xl: '6px' },
    colorScheme: {
      light: {
        surface: {
          0: '#fdfaf2',
          50: '#f7f2e5',
          100: '#efe8d6',
          200: '#e0d7c0',
          300: '#cdc2a6',
          400: '#a89d83',
          500: '#7d745f',
          600: '#5f594b',
          700: '#474339',
          800: '#2f2d28',
          900: '#1f2320',
          950: '#141715',
        },
        primary: { color: '#1f5d47', contrastColor: '#fdfaf2', hoverColor: '#174a38', activeColor: '#12392c' },
      },
      dark: {
        surface: {
          0: '#f3ead3',
          50: '#e6dcc2',
          100: '#e3dac0',
          200: '#dbd2b7',
          300: '#d3cab0',
          400: '#a9a58c',
          500: '#567264',
          600: '#345349',
          700: '#274238',
          800: '#1b342c',
          900: '#142a23',
          950: '#0d1f1a',
        },
        primary: { color: brass[300], contrastColor: '#0d1f1a', hoverColor: brass[200], activeColor: brass[100] },
      },
    },
  },
})
