import { BlockList, isIP } from 'node:net'

const FAMILY = { 4: 'ipv4', 6: 'ipv6' } as const

/** Addresses and networks (RFC 4632 §3.1, RFC 4291 §2.3) as they were written. */
export class Networks {
  readonly #list = new BlockList()

  /** @throws RangeError with the first one that is none, in a sentence */
  constructor(written: readonly string[]) {
    for (const each of written) {
      const [address, bits, rest] = each.split('/')
      const version = isIP(address ?? '')
      const most = version === 4 ? 32 : 128
      const isBits = bits === undefined || (/^\d{1,3}$/.test(bits) && Number(bits) <= most)
      if (version === 0 || !isBits || rest !== undefined)
        throw new RangeError(`“${each}” is no address and no network, as 192.0.2.7 or 192.0.2.0/24 are`)
      this.#list.addSubnet(address!, bits === undefined ? most : Number(bits), FAMILY[version as 4 | 6])
    }
  }

  includes(address: string): boolean {
    const plain = plainAddress(address)
    const version = isIP(plain)
    return version !== 0 && this.#list.check(plain, FAMILY[version as 4 | 6])
  }
}

/** An address of version 4 that a socket of version 6 tells as a mapped one (RFC 4291 §2.5.5.2). */
export const plainAddress = (address: string): string => address.replace(/^::ffff:(?=\d+\.)/i, '')

/** What was typed, one after the other with commas, blanks or lines between. */
export const splitNetworks = (text: string): string[] => text.split(/[\s,;]+/).filter(Boolean)
