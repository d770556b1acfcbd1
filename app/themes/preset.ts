import { definePreset } from '@primeuix/themes'
import base from '@primeuix/themes/aura/base'
import button from '@primeuix/themes/aura/button'
import checkbox from '@primeuix/themes/aura/checkbox'
import datatable from '@primeuix/themes/aura/datatable'
import dialog from '@primeuix/themes/aura/dialog'
import inputtext from '@primeuix/themes/aura/inputtext'
import menu from '@primeuix/themes/aura/menu'
import popover from '@primeuix/themes/aura/popover'
import select from '@primeuix/themes/aura/select'
import selectbutton from '@primeuix/themes/aura/selectbutton'
import slider from '@primeuix/themes/aura/slider'
import splitter from '@primeuix/themes/aura/splitter'
import togglebutton from '@primeuix/themes/aura/togglebutton'
import virtualscroller from '@primeuix/themes/aura/virtualscroller'

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

/** What both themes share, in the colours of `kovrin.css`: fields whose borders can be seen, lists on the panel. */
const inks = {
  formField: {
    background: 'var(--paper)',
    disabledBackground: 'var(--well)',
    borderColor: 'var(--rule-strong)',
    hoverBorderColor: 'var(--ink-soft)',
    focusBorderColor: 'var(--accent)',
    invalidBorderColor: 'var(--error)',
    color: 'var(--ink)',
    disabledColor: 'var(--ink-soft)',
    placeholderColor: 'var(--ink-soft)',
    iconColor: 'var(--ink-soft)',
    shadow: 'none',
  },
  text: { color: 'var(--ink)', hoverColor: 'var(--ink)', mutedColor: 'var(--ink-soft)', hoverMutedColor: 'var(--ink)' },
  content: {
    background: 'var(--panel)',
    hoverBackground: 'var(--well)',
    borderColor: 'var(--rule)',
    color: 'var(--ink)',
    hoverColor: 'var(--ink)',
  },
  highlight: {
    background: 'var(--well)',
    focusBackground: 'var(--well)',
    color: 'var(--ink)',
    focusColor: 'var(--ink)',
  },
  overlay: Object.fromEntries(['select', 'popover', 'modal'].map(kind =>
    [kind, { background: 'var(--panel)', borderColor: 'var(--rule-strong)', color: 'var(--ink)' }])),
  list: {
    option: {
      focusBackground: 'var(--well)',
      selectedBackground: 'var(--accent)',
      selectedFocusBackground: 'var(--accent)',
      color: 'var(--ink)',
      focusColor: 'var(--ink)',
      selectedColor: 'var(--accent-ink)',
      selectedFocusColor: 'var(--accent-ink)',
    },
    optionGroup: { background: 'transparent', color: 'var(--ink-soft)' },
  },
  navigation: {
    item: { focusBackground: 'var(--well)', color: 'var(--ink)', focusColor: 'var(--ink)' },
  },
}

/** One of a few that are all in view: the picked one in the accent. */
const pressed = {
  root: {
    background: 'var(--paper)',
    hoverBackground: 'var(--well)',
    checkedBackground: 'var(--accent)',
    borderColor: 'var(--rule-strong)',
    checkedBorderColor: 'var(--accent)',
    color: 'var(--ink)',
    hoverColor: 'var(--ink)',
    checkedColor: 'var(--accent-ink)',
  },
  content: { checkedBackground: 'transparent' },
}

/** Buttons that are words alone, and of the second rank. */
const quiet = {
  secondary: { color: 'var(--ink-soft)', hoverBackground: 'var(--well)', activeBackground: 'var(--rule)' },
}

/** PrimeVue in Kovrin's colours: pine on paper by day, brass on pine by night; only the parts that are used. */
export const kovrinPreset = definePreset({
  ...base,
  components: {
    button,
    checkbox,
    datatable,
    dialog,
    inputtext,
    menu,
    popover,
    select,
    selectbutton,
    slider,
    splitter,
    togglebutton,
    virtualscroller,
  },
}, {
  components: {
    button: { colorScheme: { light: { text: quiet }, dark: { text: quiet } } },
    select: { dropdown: { width: '1.7rem' } },
    togglebutton: { colorScheme: { light: pressed, dark: pressed } },
  },
  semantic: {
    transitionDuration: '0s',
    primary: pine,
    focusRing: { width: '2px', color: 'var(--accent)', offset: '1px' },
    formField: {
      paddingX: '0.45rem',
      paddingY: '0.4rem',
      sm: { fontSize: '0.95rem', paddingX: '0.45rem', paddingY: '0.36rem' },
      focusRing: { width: '2px', style: 'solid', color: 'var(--accent)', offset: '0' },
    },
    list: { option: { padding: '0.35rem 0.6rem' }, optionGroup: { padding: '0.35rem 0.6rem' } },
    navigation: { item: { padding: '0.4rem 0.7rem' } },
    borderRadius: { none: '0', xs: '2px', sm: '3px', md: '3px', lg: '4px', xl: '6px' },
    colorScheme: {
      light: {
        ...inks,
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
        ...inks,
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
