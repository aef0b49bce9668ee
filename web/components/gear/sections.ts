import type { Component } from 'svelte'
import type { GearState } from '#core/gear'
import type { GearKind } from '#core/catalogue'
import type { SectionKey, SectionViews } from '$lib/server/gear/gearPage'
import Hangs from '../links/Hangs.svelte'
import GearLinks from '../links/GearLinks.svelte'
import GearTexts from '../logs/GearTexts.svelte'
import Battery from '../power/Battery.svelte'
import PowerPath from '../power/PowerPath.svelte'
import GearCurves from '../readings/GearCurves.svelte'
import GearChange from './GearChange.svelte'
import GearFront from './GearFront.svelte'
import GearHistory from './GearHistory.svelte'
import GearWhy from './GearWhy.svelte'

/** What every section of a gear's page is told beside what it shows. */
export interface GearFrame {
  readonly gear: {
    readonly id: number
    readonly name: string
    readonly kind: GearKind
    readonly state: GearState
    readonly tags: readonly string[]
    readonly sourceIds: readonly number[]
    readonly rackId: number | null
    readonly unit: number | null
    readonly heightUnits: number | null
  }
  readonly nowMs: number
  readonly timeZone: string
  readonly mayOperate: boolean
  readonly mayAdminister: boolean
  /** What an action that was refused says, by the name under which it does. */
  readonly messageOf: (name: string) => string | null
  /** Shows the curves of these beside those that are picked. */
  readonly pick: (seriesIds: readonly number[]) => void
}

export interface SectionProps<View> {
  readonly view: View
  readonly frame: GearFrame
}

/** `main`: the drawing at the top, of which a gear has one; `aside`: beside it; `below`: under them, in their order. */
type Place = 'main' | 'aside' | 'below'

export interface Section {
  readonly key: SectionKey
  readonly place: Place
  readonly component: Component<SectionProps<unknown>>
}

const section = <Key extends SectionKey>(
  key: Key,
  place: Place,
  component: Component<SectionProps<NonNullable<SectionViews[Key]>>>,
): Section => ({ key, place, component: component as Component<SectionProps<unknown>> })

/** The sections of a gear's page, in their order. */
export const SECTIONS: readonly Section[] = [
  section('front', 'main', GearFront),
  section('powerPath', 'main', PowerPath),
  section('why', 'aside', GearWhy),
  section('curves', 'below', GearCurves),
  section('battery', 'below', Battery),
  section('hangs', 'below', Hangs),
  section('texts', 'below', GearTexts),
  section('history', 'below', GearHistory),
  section('links', 'below', GearLinks),
  section('change', 'below', GearChange),
]
