/** How the pages look to somebody: `system` as the device they are read on prefers. */
export const THEMES = {
  light: 'Light sheets',
  dark: 'Dark, for the night',
  system: 'As this device prefers',
} as const
export type Theme = keyof typeof THEMES

export const isTheme = (text: unknown): text is Theme =>
  typeof text === 'string' && Object.hasOwn(THEMES, text)
