import {
  aheadName,
  type AheadRehearsal,
  type AheadRule,
  type Foreseen,
  hasLevel,
  type KeptRule,
  REHEARSED_DAYS,
  ruleCovers,
  rehearseAhead,
  rulesInForce,
} from '#core/rules'
import { listMade, listOutlooks } from '#db/forecast'
import type { Db } from '#db/platform'
import { listRules, listSubjects } from '#db/rules'

const DAY_MS = 86_400_000

/**
 * What a rule on days left would tell, with all other rules as they are.
 * @param insteadOf the rule whose place it takes
 */
export async function aheadRehearsal(
  db: Db,
  { rule, insteadOf }: { readonly rule: AheadRule; readonly insteadOf: number | null },
  nowMs: number,
): Promise<AheadRehearsal> {
  const days = Math.max(0, ...rule.lines.map((line) => line.days)) + REHEARSED_DAYS
  const [kept, subjects, made, outlooks] = await Promise.all([
    listRules(db),
    listSubjects(db, { measures: [rule.measure] }),
    listMade(db),
    listOutlooks(db, { before: new Date(nowMs + days * DAY_MS), seriesIds: [] }),
  ])
  const candidate: KeptRule = { id: insteadOf ?? Number.MAX_SAFE_INTEGER, rule, isDefault: false, isOn: true }
  const rules = [...kept.filter(({ id }) => id !== insteadOf), candidate]
  const near = new Map(outlooks.map((outlook) => [outlook.seriesId, outlook]))
  const covered = subjects.filter((subject) => made.has(subject.id) && ruleCovers(rule, subject))
  const inForce = covered.filter((subject) =>
    rulesInForce(rules, subject).some(({ kept: each }) => each.id === candidate.id),
  )
  const things = inForce.map((subject): Foreseen => {
    const outlook = near.get(subject.id)
    return {
      seriesId: subject.id,
      name: aheadName(subject.gearName, subject.gearKind, subject.partName),
      outlook: {
        // What runs out later than all that is looked at is as good as not in sight here.
        verdict: outlook?.verdict ?? 'not-in-sight',
        runOutMs: outlook?.runOutMs ?? null,
        orderedForMs: outlook?.order == null ? null : Date.parse(outlook.order.expectedOn),
        hasLevelRule: hasLevel(rules, subject, outlook?.body.direction ?? 'up'),
      },
    }
  })
  return rehearseAhead(rule, things, nowMs, covered.length - inForce.length)
}
