import { parseRanges } from '#core/sources'
import type { Db } from '#db/platform'
import { findRecognition, requestRecognition, listSources } from '#db/sources'
import type { Recognised } from '#core/sources'
import { USUAL_PORTS } from '#protocols/recognise'
import { isCheckId } from './connecting.ts'
import type { LookForm } from './forms.ts'
import { Refused } from '../platform/refused.ts'

/**
 * Asks for addresses to be looked through.
 * @returns the id of the request
 * @throws Refused when the addresses are not such
 */
export async function lookThrough(
  db: Db,
  { form, requestedBy }: { form: LookForm; requestedBy: string },
): Promise<string> {
  const ranges = parseRanges(form.addresses)
  if (ranges.hosts === null) throw new Refused(ranges.problem)
  const tries = ranges.hosts.length * (form.ports.length * 2 + USUAL_PORTS.tcp.length + 1)
  if (tries > 20_000)
    throw new Refused(`That is ${tries} ports to try. Give fewer addresses, or fewer ports.`)
  return requestRecognition(db, {
    requestedBy,
    hosts: ranges.hosts,
    tcpPorts: [...new Set([...USUAL_PORTS.tcp, ...form.ports])],
    udpPorts: [...new Set([...USUAL_PORTS.udp, ...form.ports])],
    credentialIds: form.credentials.map(Number),
  })
}

/** What was found so far, as the screen shows it. */
export async function loadLook(db: Db, id: string | null) {
  const look = id !== null && isCheckId(id) ? await findRecognition(db, id) : undefined
  if (look === undefined) return null
  const sources = await listSources(db)
  return {
    id: look.id,
    hosts: look.hosts.length,
    done: look.done,
    isOver: look.finishedAt !== null,
    ports: look.tcpPorts,
    found: look.found.map((each) => ({
      protocol: each.protocol,
      address: each.address,
      said: each.said,
      known: sources.find((source) => bare(source.address) === bare(each.address)) ?? null,
      href: `/sources/connect?${connectQuery(each)}`,
    })),
  }
}

const bare = (address: string): string => address.replace(/^https?:\/\//, '').replace(/\/$/, '')

function connectQuery({ protocol, address, settings, credentialId }: Recognised): string {
  const words = Object.entries(settings).filter(
    (entry): entry is [string, string] => typeof entry[1] === 'string',
  )
  return new URLSearchParams([
    ['protocol', protocol],
    ['address', address],
    ...words,
    ...(credentialId === null ? [] : [['credential', String(credentialId)]]),
  ] as [string, string][]).toString()
}
