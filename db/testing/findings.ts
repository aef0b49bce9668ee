import type { MeasureKey } from '#core/catalogue'
import type { Findings, GearFinding } from '#core/gear'

/** A small server as a source may report it: a fan, and what is read of it. */
export function serverFindings(
  rest: Partial<GearFinding> & { rpm?: number | null; watts?: number | null } = {},
): Findings {
  const { rpm = 5000, watts = 250, ...gear } = rest
  const key = gear.key ?? 'server'
  const read = (part: string | null, measure: MeasureKey, value: number | null) => ({
    gear: key,
    part,
    measure,
    value,
  })
  return {
    gear: [
      {
        key,
        kind: 'server',
        name: 'petrel-01',
        identities: [{ kind: 'serial', value: 'NV-1' }],
        facts: { model: 'H24' },
        parts: [{ key: 'fan 1', kind: 'fan', name: 'Fan 1', facts: {} }],
        ...gear,
      },
    ],
    links: [],
    readings: [read('fan 1', 'hw.fan.speed', rpm), read(null, 'hw.power', watts)],
  }
}
