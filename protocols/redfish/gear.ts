import type { GearKind } from '#core/catalogue'
import type { GearFinding, Identity, ReadingFinding } from '#core/gear'
import { type Collected, factsOf } from './collected.ts'

export interface OneGear {
  readonly gear: GearFinding
  readonly readings: readonly ReadingFinding[]
}

/** What every resource that is a gear says of itself. */
interface Described {
  readonly '@odata.id': string
  readonly Id: string
  readonly Name?: string | null | undefined
  readonly Manufacturer?: string | null | undefined
  readonly Model?: string | null | undefined
  readonly SerialNumber?: string | null | undefined
  readonly UUID?: string | null | undefined
}

export function gearFrom(
  kind: GearKind,
  of: Described,
  rest: {
    readonly facts?: Readonly<Record<string, string>>
    readonly name?: string | null
    readonly identities?: readonly Identity[]
    readonly to: Collected
  },
): OneGear {
  return {
    gear: {
      key: of['@odata.id'],
      kind,
      name: rest.name || of.Name || of.Id,
      identities: [
        ...(of.UUID == null ? [] : [{ kind: 'uuid' as const, value: of.UUID }]),
        ...(of.SerialNumber == null ? [] : [{ kind: 'serial' as const, value: of.SerialNumber }]),
        ...(rest.identities ?? []),
      ],
      facts: {
        ...factsOf({ maker: of.Manufacturer, model: of.Model, serial: of.SerialNumber }),
        ...rest.facts,
      },
      parts: rest.to.parts,
    },
    readings: rest.to.readings,
  }
}
