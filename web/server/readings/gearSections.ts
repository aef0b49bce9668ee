import { pickSeries, readingGroups } from '#core/gear'
import { gearSection } from '../gear/section.ts'
import { loadCharts } from './charts.ts'

const CURVE_PIXELS = 600

/** All its readings, and the curves of those that are picked. */
export const curves = gearSection({
  hears: ['alerts', 'quiet', 'series', 'items', 'rules'],
  async load(about) {
    const { present, gear, asked } = about
    const [series, parts, around] = await Promise.all([about.series(), about.parts(), about.around()])
    const picked = pickSeries(asked.seriesIds, series, parts, around.open)
    return {
      groups: readingGroups(series, parts, around),
      picked,
      window: asked.window,
      charts: asked.isFirst
        ? await loadCharts(
            present,
            gear.id,
            picked,
            { window: asked.window, pixels: CURVE_PIXELS },
            { parts, series },
          )
        : null,
    }
  },
})
