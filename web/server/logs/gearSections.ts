import { textsOf } from '#db/logs'
import { SYSLOG_SEVERITIES } from '#protocols/syslog'
import { gearSection } from '../gear/section.ts'

/** Of what a gear said so much is shown. */
const MOST_TEXTS = 100

/** What it said by itself. */
export const texts = gearSection({
  hears: ['texts'],
  async load({ present, gear, asked }) {
    const said = await textsOf(present.db, gear.id, asked.window, MOST_TEXTS)
    if (said.length === 0) return null
    return {
      window: asked.window,
      texts: said.map(({ heardAt, severity, ...text }) => ({
        ...text,
        severity,
        atMs: heardAt.getTime(),
        word: SYSLOG_SEVERITIES[severity] ?? String(severity),
      })),
    }
  },
})
