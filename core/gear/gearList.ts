import type { GearKind } from '../catalogue/index.ts'
import type { GearState } from './state.ts'

/** A gear as it stands in the list of all. */
export interface GearListRow {
  readonly id: number
  readonly name: string
  readonly kind: GearKind
  readonly state: GearState
  readonly model: string
  readonly serial: string
  readonly place: string | null
  readonly tags: readonly string[]
  readonly openCount: number
}

export interface GearListFilter {
  readonly words: string
  readonly kind: string
  readonly state: string
  readonly place: string
}

/** From an address; what is not there does not filter. */
export const gearListFilterOf = (params: { get(name: string): string | null }): GearListFilter => ({
  words: (params.get('q') ?? '').trim().toLowerCase(),
  kind: params.get('kind') ?? '',
  state: params.get('state') ?? '',
  place: params.get('place') ?? '',
})

export const isFiltering = (filter: object): boolean => Object.values(filter).some((value) => value !== '')

/** Gear that fits: in its kind, state and place, and with the words in what the list says of it. */
export function fitsGearList(gear: GearListRow, { words, kind, state, place }: GearListFilter): boolean {
  return (
    (kind === '' || gear.kind === kind) &&
    (state === '' || gear.state === state) &&
    (place === '' || (gear.place === null) === (place === 'stock')) &&
    [gear.name, gear.model, gear.serial, gear.place ?? '', gear.tags.join(' ')].some((text) =>
      text.toLowerCase().includes(words),
    )
  )
}
