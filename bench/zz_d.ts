import { openPool, connect } from '#db/platform'
import { readFileSync } from 'node:fs'
import { findGear, listGroups, listTagRules, listNamesOfGear } from '#db/gear'
import { listGearScopes } from '#db/rules'
import { listAllLinks } from '#db/links'
import { pathOf, drawPath, pathSentences } from '#core/links'
import { Present } from '../web/server/platform/present.ts'
import { GEAR_SECTIONS } from '../web/server/gear/gearPage.ts'
import { GearAbout } from '../web/server/gear/section.ts'
import { loadGraph, loadPath } from '../web/server/links/paths.ts'
import * as sp from '#db/readings'
import { readSpans } from '../db/readings/spans.ts'
import { reduceForDrawing, summarize, findGaps } from '#core/readings'
const [,, data, port, id='3'] = process.argv
const db = connect(openPool(`postgres://rack:${readFileSync(data+'/demo/postgres.password','utf8').trim()}@127.0.0.1:${port}/rack`))
async function time(name: string, f: () => unknown) { for (let i=0;i<8;i++) await f(); const t=[]; for (let i=0;i<20;i++){const a=performance.now(); await f(); t.push(performance.now()-a)} t.sort((a,b)=>a-b); console.log(name.padEnd(30), t[10]!.toFixed(1), t[18]!.toFixed(1)) }
const gear = (await findGear(db, Number(id)))!
const now = () => Date.now()
const w = () => ({ key: 'day', fromMs: now()-86400000, toMs: now() }) as any
const about = () => new GearAbout(new Present(db, now()), gear, { window: w(), seriesIds: [], isFirst: true, mayAdminister: true })
const v = await GEAR_SECTIONS.curves.load(about())
const n = now()
await time('spans', () => readSpans(db, v!.picked, n-86400000, n))
const spans = await readSpans(db, v!.picked, n-86400000, n)
console.log([...spans.values()].map(s=>s.times.length))
await time('reduce', () => { for (const s of spans.values()) reduceForDrawing(s, 600) })
await time('summ', () => { for (const s of spans.values()) { summarize(s.values); findGaps(s.times, 1e5, n) } })
await time('names', () => listNamesOfGear(db))
await time('links', () => listAllLinks(db))
await time('scopes', () => listGearScopes(db))
const k = { tagRules: await listTagRules(db), groups: await listGroups(db) }
await time('scopes known', () => listGearScopes(db, undefined, k))
await time('graph', () => loadGraph(new Present(db, now())))
const g = await loadGraph(new Present(db, now()))
await time('pathOf', () => pathOf(g, [gear.id]))
const p = pathOf(g, [gear.id])
await time('draw', () => drawPath(p, [gear.id]))
await time('sent', () => pathSentences(g, p, [gear.id]))
const pr = new Present(db, now())
await time('loadPath', () => loadPath(pr, g, [gear.id]))
process.exit(0)
