/** Temperatures are kept in °C; people read and write them in either. */
export const TEMPERATURE_SCALES = { celsius: '°C', fahrenheit: '°F' } as const
export type TemperatureScale = keyof typeof TEMPERATURE_SCALES
export const isTemperatureScale = (text: unknown): text is TemperatureScale =>
  typeof text === 'string' && Object.hasOwn(TEMPERATURE_SCALES, text)

let readersScale = (): TemperatureScale => 'celsius'

/**
 * In which scale whoever reads now wants temperatures. A browser has one reader; a server asks the request that it answers.
 * Where nobody says, as in messages and exports, it is °C.
 */
export function readTemperaturesIn(scale: () => TemperatureScale): void {
  readersScale = scale
}
export const temperatureScale = (): TemperatureScale => readersScale()

/** A temperature, not a difference of two. @param celsius °C */
export const fromCelsius = (celsius: number, scale = temperatureScale()): number =>
  scale === 'celsius' ? celsius : celsius * 1.8 + 32
/** The other way round, °C. */
export const toCelsius = (shown: number, scale = temperatureScale()): number =>
  scale === 'celsius' ? shown : (shown - 32) / 1.8

const WRITTEN = /([-−]?\d+(?:\.\d+)?)( to ([-−]?\d+(?:\.\d+)?))?([ \u00a0])°C/gu

/** Words with temperatures in them, “18 to 21 °C”, for whoever reads now. Not for differences: those are said in K. */
export function inReadersScale(words: string): string {
  const scale = temperatureScale()
  if (scale === 'celsius') return words
  const shown = (text: string): string => {
    const decimals = text.split('.')[1]?.length ?? 0
    return fromCelsius(Number(text.replace('−', '-')), scale).toFixed(decimals)
  }
  return words.replaceAll(
    WRITTEN,
    (_, first: string, range: string | undefined, second: string, space: string) =>
      `${shown(first)}${range === undefined ? '' : ` to ${shown(second)}`}${space}${TEMPERATURE_SCALES[scale]}`,
  )
}
