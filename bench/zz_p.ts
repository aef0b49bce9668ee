import { openPool, connect } from '#db/platform'
import { readFileSync } from 'node:fs'
import { findGear } from '#db/gear'
import { Present } from '../web/server/platform/present.ts'
import { loadGearPage } from '../web/server/gear/gearPage.ts'
import { GearAbout } from '../web/server/gear/section.ts'
import { loadShell } from '../web/server/shell/shell.ts'
const [,, data, port, id='3'] = process.argv
const pool = openPool(`postgres://rack:${readFileSync(data+'/demo/postgres.password','utf8').trim()}@127.0.0.1:${port}/rack`)
const db = connect(pool)
const gear = (await findGear(db, Number(id)))!
const now = () => Date.now()
const w = () => ({ key: 'day', fromMs: now()-86400000, toMs: now() }) as any
const t0=process.cpuUsage(), a=performance.now()
for (let i=0;i<100;i++) { const p = new Present(db, now()); await Promise.all([loadShell(p), loadGearPage(new GearAbout(p, gear, { window: w(), seriesIds: [], isFirst: true, mayAdminister: true }))]) }
const c=process.cpuUsage(t0); console.log('wall', (performance.now()-a)/100, 'cpu', (c.user+c.system)/1e5)
process.exit(0)
