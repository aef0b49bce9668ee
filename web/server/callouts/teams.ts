import { onDuty, turnsBetween } from '#core/callouts'
import type { Person, Team } from '#db/callouts'
import { z } from 'zod'

const DAY_MS = 86_400_000
const SHOWN_DAYS = 21

/** Teams as their page shows them, with who is on duty now and over the next weeks. */
export function teamViews(
  teams: readonly Team[],
  people: readonly Person[],
  nowMs: number,
  timeZone: string,
) {
  const nameOf = (id: number): string => people.find((each) => each.id === id)?.name ?? 'somebody'
  return {
    teams: teams.map((team) => ({
      ...team,
      onDutyId: team.duty === null ? null : onDuty(team.duty, nowMs, timeZone),
      turns:
        team.duty === null
          ? []
          : turnsBetween(team.duty, nowMs, nowMs + SHOWN_DAYS * DAY_MS, timeZone).map((turn) => ({
              ...turn,
              name: nameOf(turn.personId),
            })),
    })),
    window: { fromMs: nowMs, toMs: nowMs + SHOWN_DAYS * DAY_MS },
    today: new Date(nowMs).toISOString().slice(0, 10),
  }
}

/** A row that is there, or a new one. */
export const idOrNew = z.object({
  id: z
    .string()
    .default('')
    .transform((text) => (Number(text) > 0 ? Number(text) : null)),
})
export const teamForm = idOrNew.extend({ name: z.string().trim().min(1, 'Give the team a name') })
export const aboutTeam = (fields: Readonly<Record<string, unknown>>) => ({
  about: `team ${typeof fields['id'] === 'string' ? fields['id'] : ''}`,
})
