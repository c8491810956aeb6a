// Manuscript pigments, light and dark: the one place where colours are written down.
export const light = {
  background: '#faf6ec', // paper: frame, catalogue, trail
  'on-background': '#2b2030',
  surface: '#fffdf7', // sheet: sentence, table
  'on-surface': '#2b2030',
  primary: '#2b2030', // ink
  'on-primary': '#faf6ec',
  soft: '#6d6070', // secondary text, joining words, deepest level
  rule: '#d9cfbd',
  hair: '#ebe3d3',
  tint: '#f7f2e6', // total columns
  secondary: '#9c2a3c', // madder: selected
  'on-secondary': '#fffdf7',
  'secondary-tint': '#f6e4e2',
  saffron: '#c98500', // about to happen
  'saffron-tint': '#fbeecb',
  success: '#1f6f63', // verdigris
  error: '#9c2a3c',
  'on-error': '#fffdf7',
}

export const dark: typeof light = {
  background: '#1b1620',
  'on-background': '#efe6d8',
  surface: '#211b27',
  'on-surface': '#efe6d8',
  primary: '#efe6d8',
  'on-primary': '#211b27',
  soft: '#a99caa',
  rule: '#4a3f50',
  hair: '#332b3a',
  tint: '#272030',
  secondary: '#ec8f96',
  'on-secondary': '#211b27',
  'secondary-tint': '#43252f',
  saffron: '#e8b04a',
  'saffron-tint': '#40331a',
  success: '#6fc2b1',
  error: '#ec8f96',
  'on-error': '#211b27',
}

/** The series of a chart, apart in lightness as well as in hue: aubergine, ochre, verdigris, madder, lapis, umber, rose, slate. */
export const pigments = {
  light: ['#4b2e57', '#c98500', '#1f6f63', '#b8475a', '#3f6ea8', '#7d6248', '#d59aa6', '#8d8796'],
  dark: ['#b79ac6', '#e8b04a', '#6fc2b1', '#ec8f96', '#8db4e2', '#c4a98c', '#f0c3ca', '#a9a3b3'],
}
