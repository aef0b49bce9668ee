import { openPool, connect } from '#db/platform'
import { readFileSync } from 'node:fs'
import { findGear } from '#db/gear'
import { Present } from '../web/server/platform/present.ts'
import { loadGearPage } from '../web/server/gear/gearPage.ts'
import { GearAbout } from '../web/server/gear/section.ts'
import { loadShell } from '../web/server/shell/shell.ts'
import { loadWatch } from '../web/server/shell/watch.ts'
const [,, data, port, id='3'] = process.argv
const pool = openPool(`postgres://rack:${readFileSync(data+'/demo/postgres.password','utf8').trim()}@127.0.0.1:${port}/rack`)
const log: string[] = []
const c0 = pool.connect.bind(pool) as any
;(pool as any).connect = async () => { const c = await c0(); if (!c.zz) { c.zz = 1; const q = c.query.bind(c); c.query = (t: any, ...r: any[]) => { log.push(typeof t === 'string' ? t : t.text); return q(t, ...r) } } return c }
const db = connect(pool)
const gear = (await findGear(db, Number(id)))!
const now = () => Date.now()
const w = () => ({ key: 'day', fromMs: now()-86400000, toMs: now() }) as any
const run = async () => { const p = new Present(db, now()); await Promise.all([loadShell(p), loadGearPage(new GearAbout(p, gear, { window: w(), seriesIds: [], isFirst: true, mayAdminister: true }))]) }
await run(); log.length = 0; await run(); console.log(log.length); for (const l of log) console.log(l.replace(/\s+/g,' ').slice(0,140))
log.length=0; const p = new Present(db, now()); await Promise.all([loadShell(p), loadWatch(p, w())]); console.log('WATCH', log.length)
process.exit(0)
