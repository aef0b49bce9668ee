import type { RegisterBlock, RegisterSpan } from '#core/sources'
import type { SimGenerator } from '../model/generator.ts'
import { blockOf, serialWords } from './registers.ts'

/** The registers of a generator, as its maker's list has them; `null` where it has none. */
export function generatorRegisters(
  generator: SimGenerator,
  span: RegisterSpan,
  atMs: number,
): RegisterBlock | null {
  const now = generator.at(atMs)
  return blockOf(span, {
    input: {
      0: now.isRunning ? 1 : 0,
      1: Math.round(now.fuel * 1000),
      2: Math.round(now.coolant * 10),
      3: Math.round(now.starterVolts * 10),
      4: Math.round(now.outputVolts * 10),
      5: now.health,
    },
    holding: serialWords(generator.spec.serial),
    discrete: {},
    coil: {},
  })
}
