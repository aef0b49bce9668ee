import { sql } from 'kysely'
import { GEAR_KINDS, isGearKind } from '#core/catalogue'
import type { Db } from '../platform/connect.ts'

export interface Found {
  readonly label: string
  readonly what: string
  readonly href: string
}

/** Gear, parts, sources and addresses whose name, serial or model holds the words, closest first. At most twelve. */
export async function find(db: Db, words: string): Promise<Found[]> {
  const text = words.trim()
  if (text === '') return []
  const pattern = `%${text.replaceAll(/[\\%_]/g, (sign) => `\\${sign}`)}%`
  const { rows } = await sql<{ label: string; kind: string; href: string; detail: string | null }>`
    select name as label, kind, '/gear/' || id as href, facts ->> 'model' as detail from gear
      where merged_into is null and (name ilike ${pattern} or facts ->> 'serial' ilike ${pattern}
        or facts ->> 'model' ilike ${pattern} or array_to_string(tags, ' ') ilike ${pattern})
    union all
    select part.name || ' in ' || gear.name, 'part', '/gear/' || gear.id || '?part=' || part.id, part.facts ->> 'serial'
      from part join gear on gear.id = part.gear_id
      where part.is_present and (part.name || ' ' || gear.name ilike ${pattern} or part.facts ->> 'serial' ilike ${pattern})
    union all
    select name, 'source', '/sources#source-' || id, address from source where name ilike ${pattern} or address ilike ${pattern}
    order by 1 limit 60`.execute(db)
  const rank = (label: string): number => (label.toLowerCase().startsWith(text.toLowerCase()) ? 0 : 1)
  return rows
    .sort((a, b) => Number(a.kind === 'part') - Number(b.kind === 'part') || rank(a.label) - rank(b.label))
    .slice(0, 12)
    .map(({ label, kind, href, detail }) => {
      const what = isGearKind(kind) ? GEAR_KINDS[kind].label : kind === 'part' ? 'Part' : 'Source'
      return { label, what: detail === null ? what : `${what} · ${detail}`, href }
    })
}
