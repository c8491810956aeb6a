import { createVuetify } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'
import { dark, light } from './colours'

// Component looks are decided here, once, so that no component looks out of the box.
export const vuetify = createVuetify({
  theme: {
    defaultTheme: 'light',
    themes: { light: { dark: false, colors: light }, dark: { dark: true, colors: dark } },
  },
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  defaults: {
    global: { ripple: false },
    VBtn: { variant: 'text', density: 'compact', rounded: 'sm', class: 'quiet-button' },
    VTextField: { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary', baseColor: 'rule' },
    VTextarea: { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary', baseColor: 'rule' },
    VCombobox: { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary', baseColor: 'rule' },
    VSelect: { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary', baseColor: 'rule' },
    VCard: { tag: 'section', rounded: 'sm', elevation: 0, class: 'slip' },
    VList: { density: 'compact', rounded: 'sm', class: 'slip-list' },
    VCheckbox: { density: 'compact', hideDetails: true },
    VTooltip: { openDelay: 350 },
  },
})
