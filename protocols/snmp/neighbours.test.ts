import { describe, expect, test } from 'vitest'
import { agentFindings } from './index.ts'

const LLDP = '1.0.8802.1.1.2.1'
const IF = '1.3.6.1.2.1.2.2.1'
const mac = (hex: string): Buffer => Buffer.from(hex, 'hex')

/** A switch with five ports whose local numbers are not its interface numbers. */
function walked(remote: Record<string, string | number | Buffer>) {
  const objects = new Map<string, string | number | Buffer>([['1.3.6.1.2.1.1.5.0', 'reef']])
  for (let index = 1; index <= 5; index += 1) {
    objects.set(`${IF}.2.${index}`, `xe-${index}`)
    objects.set(`${IF}.8.${index}`, 1)
    objects.set(`${LLDP}.3.7.1.2.${500 + index}`, 5)
    objects.set(`${LLDP}.3.7.1.3.${500 + index}`, `xe-${index}`)
  }
  for (const [key, value] of Object.entries(remote)) objects.set(`${LLDP}.4.1.1.${key}`, value)
  return agentFindings(objects)?.farLinks ?? []
}

describe('neighbours (IEEE 802.1AB LLDP-MIB)', () => {
  test('a chassis by its hardware address, a port by its name; the own port by its local number', () => {
    expect(
      walked({
        '4.0.503.1': 4,
        '5.0.503.1': mac('026b00000700'),
        '6.0.503.1': 5,
        '7.0.503.1': 'nic 0',
        '9.0.503.1': 'petrel-07',
      }),
    ).toEqual([
      {
        kind: 'wired-to',
        gear: 'agent',
        part: 'port xe-3',
        isFrom: false,
        far: {
          identities: [{ kind: 'mac', value: '02:6b:00:00:07:00' }],
          name: 'petrel-07',
          part: 'nic 0',
        },
      },
    ])
  })
  test('a port that is known by its hardware address counts as an identity; its description is its name', () => {
    const [found] = walked({
      '4.12.501.1': 7,
      '5.12.501.1': 'some local name',
      '6.12.501.1': 3,
      '7.12.501.1': mac('026b00000701'),
      '8.12.501.1': 'eth1',
    })
    expect(found?.far).toEqual({
      identities: [{ kind: 'mac', value: '02:6b:00:00:07:01' }],
      name: null,
      part: 'eth1',
    })
  })
  test('who says neither an address nor a name is passed over; a port that is not known is no port', () => {
    expect(walked({ '4.0.501.1': 7, '5.0.501.1': 'x' })).toEqual([])
    expect(walked({ '4.0.999.1': 7, '9.0.999.1': 'camera' })).toMatchObject([
      { part: null, far: { name: 'camera' } },
    ])
  })
})
