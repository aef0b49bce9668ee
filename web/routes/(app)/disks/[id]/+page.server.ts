import { error } from '@sveltejs/kit'
import { isMeasureKey, measureOf } from '#core/catalogue'
import { pageTable } from '#core/disks'
import { findPage, listDriveSeries, servicesAround } from '#db/disks'
import { findForecast } from '#db/forecast'
import { loadDrives } from '$lib/server/disks/disks'
import { hears } from '$lib/server/platform/hears'
import { idOf } from '$lib/server/platform/params'
import { presentOf } from '$lib/server/platform/present'
import { may } from '$lib/server/platform/signedIn'
import type { PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals, depends, params }) => {
  hears(depends, 'alerts', 'forecasts', 'items')
  const present = presentOf(locals)
  const id = idOf(params.id)
  const [drive] = await loadDrives(present, id)
  if (drive === undefined) error(404, 'There is no such drive, or it is gone.')
  const [kept, services, series, ahead] = await Promise.all([
    findPage(present.db, id),
    servicesAround(present.db, id),
    listDriveSeries(present.db, { partId: id }),
    drive.aheadId === null ? undefined : findForecast(present.db, drive.aheadId),
  ])
  const seriesOf = new Map(series.map((each) => [each.measure, each.id]))
  return {
    drive,
    page:
      kept === null ? null : { kind: kept.page.kind, readMs: kept.readMs, ...rowsOf(kept.page, seriesOf) },
    services,
    ahead: ahead === undefined ? null : { sentence: ahead.body.sentence, proofs: ahead.body.proofs.length },
    series: series
      .filter(({ measure }) => isMeasureKey(measure) && !measure.startsWith('hw.drive.attribute.'))
      .map(({ id: seriesId, measure }) => ({ seriesId, measure, label: measureOf(measure).label })),
    mayAdminister: may(locals, 'administer'),
  }
}

/** A page that was taken in once may be refused by a stricter reader: its drive is shown all the same. */
function rowsOf(page: Parameters<typeof pageTable>[0], seriesOf: ReadonlyMap<string, number>) {
  try {
    return {
      rows: pageTable(page).map((row) => ({
        ...row,
        seriesId: row.measure === null ? null : (seriesOf.get(row.measure) ?? null),
      })),
      problem: null,
    }
  } catch (problem) {
    if (problem instanceof RangeError) return { rows: [], problem: problem.message }
    throw problem
  }
}
