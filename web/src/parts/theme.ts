import { createVuetify, type ThemeDefinition } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'

export type Surround = 'dusk' | 'overcast' | 'paper'

/** Three neutral greys to judge colour by; the accent is the same hue in each, as light as legibility asks. */
function surround(
  dark: boolean,
  background: string,
  surface: string,
  raised: string,
  ink: string,
  accent: string,
): ThemeDefinition {
  return {
    dark,
    colors: {
      background,
      surface,
      'surface-bright': raised,
      'surface-light': raised,
      'surface-variant': dark ? '#d8d8d8' : '#2b2b2b',
      'on-surface-variant': dark ? '#1c1c1c' : '#f2f2f2',
      'on-background': ink,
      'on-surface': ink,
      primary: accent,
      'on-primary': dark ? '#0c1a18' : '#ffffff',
      secondary: accent,
      error: dark ? '#ff8a7a' : '#a3261b',
      warning: dark ? '#f0b95a' : '#6e4600',
      success: accent,
      info: ink,
    },
    variables: {
      'border-opacity': dark ? 0.16 : 0.24,
      'high-emphasis-opacity': 0.96,
      'medium-emphasis-opacity': 0.76,
    },
  }
}

export const vuetify = createVuetify({
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  theme: {
    defaultTheme: (localStorage.getItem('surround') as Surround | null) ?? 'dusk',
    themes: {
      dusk: surround(true, '#232323', '#2c2c2c', '#3a3a3a', '#ececec', '#7cc4b9'),
      overcast: surround(true, '#474747', '#505050', '#5e5e5e', '#f6f6f6', '#a5dcd3'),
      paper: surround(false, '#c6c6c6', '#d4d4d4', '#e3e3e3', '#171717', '#0d5d54'),
    },
  },
  defaults: {
    VBtn: { variant: 'text', density: 'comfortable', ripple: false },
    VTextField: { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary' },
    VTextarea: { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary' },
    VSelect: { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary' },
    VSlider: { density: 'compact', hideDetails: true, color: 'primary', thumbSize: 14, trackSize: 2 },
    VTooltip: { location: 'bottom', openDelay: 350 },
    VCheckbox: { density: 'compact', hideDetails: true, color: 'primary' },
  },
})
