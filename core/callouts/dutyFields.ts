import { instantOf } from '../units/index.ts'
import type { DutyCalendar } from './duty.ts'

type Parsed =
  | { readonly kind: 'duty'; readonly duty: DutyCalendar | null }
  | { readonly kind: 'refused'; readonly message: string }

/** A duty calendar out of its form: turns in order, how long each is, when they began, and who stands in. */
export function dutyFromFields(
  fields: Readonly<Record<string, string>>,
  turns: readonly number[],
  team: { readonly personIds: readonly number[]; readonly duty: DutyCalendar | null },
  timeZone: string,
): Parsed {
  const refused = (message: string): Parsed => ({ kind: 'refused', message })
  const personIds = turns.filter((id) => team.personIds.includes(id))
  if (personIds.length === 0) return { kind: 'duty', duty: null }
  const turnDays = Number(fields['turnDays'])
  if (!Number.isInteger(turnDays) || turnDays < 1 || turnDays > 60)
    return refused(`A turn lasts 1 to 60 days; “${fields['turnDays'] ?? ''}” is none of them.`)
  const firstDay = fields['firstDay'] ?? ''
  if (!/^\d{4}-\d{2}-\d{2}$/.test(firstDay)) return refused('Say from which day on the turns are counted.')
  const clock = /^(\d{1,2}):(\d{2})$/.exec((fields['handOver'] ?? '').trim())
  const handOverMinute = clock === null ? NaN : Number(clock[1]) * 60 + Number(clock[2])
  if (!(handOverMinute < 1440)) return refused('They hand over at a time, as 08:00.')
  const kept = (team.duty?.swaps ?? []).filter((_, index) => fields[`drop-${index}`] !== 'on')
  const swapId = Number(fields['swapPerson'] ?? '')
  if (!(swapId > 0))
    return { kind: 'duty', duty: { personIds, turnDays, firstDay, handOverMinute, swaps: kept } }
  const [fromMs, toMs] = [fields['swapFrom'], fields['swapTo']].map((text) =>
    instantOf(Date.parse(`${text ?? ''}Z`), timeZone),
  ) as [number, number]
  if (!(fromMs < toMs)) return refused('Who stands in does so from one time to a later one.')
  return {
    kind: 'duty',
    duty: {
      personIds,
      turnDays,
      firstDay,
      handOverMinute,
      swaps: [...kept, { personId: swapId, fromMs, toMs }],
    },
  }
}
