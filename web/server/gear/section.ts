import { type Around, isCurrent } from '#core/gear'
import { isMeasureKey } from '#core/catalogue'
import type { TimeWindow } from '#core/readings'
import { type GearRow, listParts, listSeries } from '#db/gear'
import { linksSeenFrom } from '#core/links'
import type { LiveEvent } from '#db/platform'
import { listSources } from '#db/sources'
import { once, type Present } from '../platform/present.ts'

/** One gear while its page is gathered: what several sections are made from is asked for once. */
export class GearAbout {
  constructor(
    readonly present: Present,
    readonly gear: GearRow,
    readonly asked: {
      readonly window: TimeWindow
      /** Series that the address asks the curves of. */
      readonly seriesIds: readonly number[]
      /** Whether the page is loaded as a whole; one that is open already asks for its curves by themselves. */
      readonly isFirst: boolean
      readonly mayAdminister: boolean
    },
  ) {}

  readonly parts = once(() => listParts(this.present.db, this.gear.id))
  /** The sources that see it, by name. */
  readonly sources = once(() => listSources(this.present.db, this.gear.sourceIds))
  readonly links = once(async () =>
    linksSeenFrom(this.gear.id, (await this.present.linksByGear()).get(this.gear.id) ?? []),
  )
  readonly allSeries = once(() => listSeries(this.present.db, [this.gear.id]))
  /** The series of what is there: those of a part that its device no longer reports are history. */
  readonly series = once(async () => {
    const [all, parts] = await Promise.all([this.allSeries(), this.parts()])
    return all.filter((each) => isMeasureKey(each.measure) && isCurrent(each, parts))
  })
  readonly openAlerts = once(async () =>
    (await this.present.openAlerts()).filter(({ gearId }) => gearId === this.gear.id),
  )
  /** What is known of its readings now. */
  readonly around = once(async (): Promise<Around> => {
    const [latest, alerts, silent] = await Promise.all([
      this.present.latestOf(this.gear.sourceIds),
      this.openAlerts(),
      this.present.silent(),
    ])
    return {
      newest: (id) => latest.get(id)?.value,
      open: alerts.map(({ seriesId, severity, quietId }) => ({
        seriesId,
        severity,
        isQuiet: quietId !== null,
      })),
      silent,
    }
  })
}

/** What a subject shows on the page of a gear. Its component stands under the same key in the page's list of sections. */
export interface GearSection<View> {
  /** Which gear it is for; all when not said. */
  readonly isFor?: (gear: GearRow) => boolean
  /** It is asked again when one of these changes. */
  readonly hears: readonly LiveEvent['topic'][]
  /** @returns `null` when there is nothing to show */
  readonly load: (about: GearAbout) => Promise<View | null>
}

/** A section with what it shows kept in its type. */
export const gearSection = <View>(section: GearSection<View>): GearSection<View> => section
