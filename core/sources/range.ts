/** What was given as addresses, as single hosts, or what is wrong with it. */
export type Ranges =
  | { readonly hosts: readonly string[]; readonly problem: null }
  | { readonly hosts: null; readonly problem: string }

export const MOST_HOSTS = 1024

const OCTETS = /^(\d{1,3})\.(\d{1,3})\.(\d{1,3})\.(\d{1,3})$/
const NAME = /^(?!-)[a-z0-9_-]{1,63}(\.[a-z0-9_-]{1,63})*\.?$/i
const V6 = /^[0-9a-f:]+(%\w+)?$/i

/**
 * Hosts of addresses, names, ranges `192.0.2.10-40` and networks `192.0.2.0/28` (RFC 4632; without the network's own
 * address and that for all), set apart by blanks, commas or lines. Each once, in their order.
 */
export function parseRanges(text: string): Ranges {
  const hosts = new Set<string>()
  for (const word of text.split(/[\s,;]+/).filter(Boolean)) {
    const found = hostsOf(word)
    if (typeof found === 'string') return { hosts: null, problem: found }
    for (const host of found) hosts.add(host)
    if (hosts.size > MOST_HOSTS)
      return {
        hosts: null,
        problem: `That is more than ${MOST_HOSTS} addresses; look at a part of them at a time.`,
      }
  }
  return hosts.size === 0
    ? { hosts: null, problem: 'Enter an address, a range as 192.0.2.10-40, or a network as 192.0.2.0/28.' }
    : { hosts: [...hosts], problem: null }
}

function networkHosts(word: string, base: string, prefix: string): readonly string[] | string {
  const first = numberOf(base)
  const bits = /^\d{1,2}$/.test(prefix) ? Number(prefix) : 99
  if (first === null || bits > 32) return `“${word}” is not a network, as 192.0.2.0/28.`
  if (bits < 22)
    return `“${word}” has ${2 ** (32 - bits)} addresses; a network to look through is /22 or smaller.`
  const size = 2 ** (32 - bits)
  const start = first - (first % size)
  return size <= 2 ? between(start, start + size - 1) : between(start + 1, start + size - 2)
}

function hostsOf(word: string): readonly string[] | string {
  const [base, prefix] = word.split('/')
  if (prefix !== undefined) return networkHosts(word, base!, prefix)
  const range = /^([\d.]+)-([\d.]+)$/.exec(word)
  if (range !== null) {
    const first = numberOf(range[1]!)
    const last = range[2]!.includes('.')
      ? numberOf(range[2]!)
      : numberOf(range[1]!.replace(/\d+$/, range[2]!))
    if (first === null || last === null) return `“${word}” is not a range, as 192.0.2.10-40.`
    if (last < first) return `“${word}” ends before it begins.`
    if (last - first >= MOST_HOSTS) return `“${word}” has more than ${MOST_HOSTS} addresses.`
    return between(first, last)
  }
  if (/^[\d.]+$/.test(word)) return numberOf(word) === null ? `“${word}” is not an address.` : [word]
  if (word.includes(':')) return V6.test(word) ? [word.toLowerCase()] : `“${word}” is not an address.`
  return NAME.test(word) ? [word.toLowerCase()] : `“${word.slice(0, 60)}” is neither an address nor a name.`
}

function numberOf(address: string): number | null {
  const octets = OCTETS.exec(address)?.slice(1).map(Number)
  if (octets === undefined || octets.some((octet) => octet > 255)) return null
  return octets.reduce((sum, octet) => sum * 256 + octet, 0)
}

const textOf = (number: number): string => [24, 16, 8, 0].map((shift) => (number >>> shift) & 255).join('.')
const between = (first: number, last: number): string[] =>
  Array.from({ length: last - first + 1 }, (_, index) => textOf(first + index))
