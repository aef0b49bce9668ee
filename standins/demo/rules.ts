import { ofLast, type Rule } from '#core/rules'
import { openAlert, acceptAlert } from '#db/alerts'
import type { Db } from '#db/platform'
import { insertTagRule } from '#db/gear'
import { insertRule, listSubjects } from '#db/rules'

const WHO = 'Asta Holm'

/** Lines of the demo's own: air behind a rack is warmer than air before it, and one machine is busy by design. */
const RULES: readonly Rule[] = [
  {
    kind: 'level',
    key: 'new',
    name: 'Air behind the racks',
    why: 'Air that has gone through servers is ten degrees warmer than the air before them, and may be.',
    scope: { gearKind: 'probe', partKind: null, where: { kind: 'tag', tag: 'rear' } },
    of: { measure: 'hw.temperature', with: null },
    direction: 'above',
    lines: [
      { severity: 'warning', at: 42, back: 41 },
      { severity: 'critical', at: 48, back: 46 },
    ],
    persistence: ofLast(4, 6),
  },
]

export async function insertDemoRules(trx: Db): Promise<void> {
  await insertTagRule(trx, 'rear', {
    name: '*-rear',
    kind: 'probe',
    roomId: null,
    rackId: null,
    sourceId: null,
  })
  for (const rule of RULES) await insertRule(trx, rule, WHO)
}

const DAY_MS = 86_400_000

/** The supply without a cord: failed for as long as anybody remembers, and accepted. */
export async function acceptDemoSupply(
  trx: Db,
  idOf: (name: string) => number | null,
  nowMs: number,
): Promise<void> {
  const gearId = idOf('petrel-11')
  if (gearId === null) return
  const subjects = await listSubjects(trx, { gearIds: [gearId] })
  const series = subjects.find(({ measure, partName }) => measure === 'hw.status' && partName === 'Supply 2')
  if (series === undefined) return
  const at = new Date(nowMs - 60 * DAY_MS)
  const id = await openAlert(trx, {
    ruleKey: 'part-health',
    seriesId: series.id,
    sourceId: null,
    gearId,
    partId: series.partId,
    measure: 'hw.status',
    subject: `series ${series.id}`,
    severity: 'critical',
    title: 'Supply 2 in petrel-11 has failed',
    reason: 'The device reports this supply failed; voltage 0.0 V.',
    line: 'failed',
    value: 2,
    sinceAt: at,
    openedAt: at,
  })
  if (id !== null)
    await acceptAlert(trx, id, {
      who: WHO,
      reason: 'the outlet at the light station is kept for the radio; one cord is enough here',
      at: new Date(at.getTime() + DAY_MS),
      state: 2,
    })
}
