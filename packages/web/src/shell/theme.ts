import 'vuetify/styles'
import { createVuetify } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'

/** Vuetify carries our palette; its own look should not be recognised. */
export const vuetify = createVuetify({
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  theme: {
    defaultTheme: 'light',
    themes: {
      light: {
        dark: false,
        colors: {
          background: '#f3f4f1',
          surface: '#ffffff',
          primary: '#1c2430',
          secondary: '#6a2c5d',
          error: '#b8400a',
          info: '#2d5a7b',
        },
      },
      dark: {
        dark: true,
        colors: {
          background: '#14181f',
          surface: '#1b212a',
          primary: '#dfe3e8',
          secondary: '#d9a5cd',
          error: '#f0925f',
          info: '#8fbadb',
        },
      },
    },
  },
  defaults: {
    global: { ripple: false },
    VTextField: { variant: 'outlined', density: 'compact', hideDetails: 'auto' },
    VDialog: { maxWidth: 640, scrim: '#1c2430' },
  },
})
