import { openPool, connect } from '#db/platform'
import { readFileSync } from 'node:fs'
import { findGear } from '#db/gear'
import { Present } from '../web/server/platform/present.ts'
import { GEAR_SECTIONS, loadGearPage } from '../web/server/gear/gearPage.ts'
import { GearAbout } from '../web/server/gear/section.ts'
import { loadShell } from '../web/server/shell/shell.ts'
import { loadWatch } from '../web/server/shell/watch.ts'
import { loadGraph, loadPath } from '../web/server/links/paths.ts'
import { loadCharts } from '../web/server/readings/charts.ts'
import { loadSpace } from '../web/server/readings/space.ts'
import { listSubjects } from '#db/rules'
import { listAlertsOfGear } from '#db/alerts'
import * as sp from '#db/readings'
const [,, data, port, id='3'] = process.argv
const db = connect(openPool(`postgres://rack:${readFileSync(data+'/demo/postgres.password','utf8').trim()}@127.0.0.1:${port}/rack`))
async function time(name: string, f: () => Promise<unknown>) { for (let i=0;i<8;i++) await f(); const t=[]; for (let i=0;i<20;i++){const a=performance.now(); await f(); t.push(performance.now()-a)} t.sort((a,b)=>a-b); console.log(name.padEnd(30), t[10]!.toFixed(1), t[18]!.toFixed(1)) }
const gear = (await findGear(db, Number(id)))!
const now = () => Date.now()
const w = () => ({ key: 'day', fromMs: now()-86400000, toMs: now() }) as any
const about = () => new GearAbout(new Present(db, now()), gear, { window: w(), seriesIds: [], isFirst: true, mayAdminister: true })
await time('shell', () => loadShell(new Present(db, now())))
await time('watch', () => loadWatch(new Present(db, now()), w()))
await time('whole', () => loadGearPage(about()))
for (const [key, s] of Object.entries(GEAR_SECTIONS)) await time(key, () => (s as any).load(about()))
await time('graph', () => loadGraph(new Present(db, now())))
const v = await GEAR_SECTIONS.curves.load(about())
await time('charts', () => loadCharts(new Present(db, now()), gear.id, v!.picked, { window: w(), pixels: 600 }))
await time('subjects', () => listSubjects(db, { gearIds: [gear.id] }))
await time('alertsOfGear', () => listAlertsOfGear(db, gear.id, new Date(now()-86400000), new Date()))
for (const s of v!.picked) await time('drawing '+s, () => sp.drawing(db, s, { ...w(), pixels: 600, longestGapMs: 1e9 }))
await time('space', () => loadSpace(db, now()))
process.exit(0)
