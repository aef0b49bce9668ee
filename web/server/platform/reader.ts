import { AsyncLocalStorage } from 'node:async_hooks'
import { readTemperaturesIn, type TemperatureScale } from '#core/units'

const reader = new AsyncLocalStorage<TemperatureScale>()
readTemperaturesIn(() => reader.getStore() ?? 'celsius')

/** Answers a request in the scale of temperatures that whoever asks reads. */
export const readIn = <T>(scale: TemperatureScale, answer: () => T): T => reader.run(scale, answer)
