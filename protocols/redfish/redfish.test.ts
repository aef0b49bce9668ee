import { describe, expect, test } from 'vitest'
import { findingsOf, MissingDocument, walk } from './index.ts'

type Documents = Record<string, unknown>

/** A service from its documents by URI; counts what was asked. */
function service(documents: Documents) {
  const asked: string[] = []
  return {
    asked,
    get: (path: string): Promise<unknown> => {
      asked.push(path)
      const found = documents[path] ?? documents[path.replace(/\/$/, '')]
      return found === undefined ? Promise.reject(new MissingDocument(path)) : Promise.resolve(found)
    },
  }
}
const at = (uri: string) => ({ '@odata.id': uri })

/** Names and nesting differ from the stand-in on purpose: only links lead the way. */
const odd: Documents = {
  '/redfish/v1': { Systems: at('/redfish/v1/Machines'), Chassis: at('/redfish/v1/Boxes') },
  '/redfish/v1/Machines': {
    Members: [at('/redfish/v1/Machines/blue')],
    'Members@odata.nextLink': '/redfish/v1/Machines?page=2',
  },
  '/redfish/v1/Machines?page=2': { Members: [at('/redfish/v1/Machines/red')] },
  '/redfish/v1/Machines/blue': {
    '@odata.id': '/redfish/v1/Machines/blue',
    Id: 'blue',
    Name: 'Blue node',
    HostName: '',
    SerialNumber: 'BL-1',
    UUID: null,
    PowerState: 'Off',
    Storage: at('/redfish/v1/Machines/blue/Cage'),
    Links: { Chassis: [at('/redfish/v1/Boxes/twin')] },
  },
  '/redfish/v1/Machines/red': { '@odata.id': '/redfish/v1/Machines/red', Id: 'red' },
  '/redfish/v1/Machines/blue/Cage': { Members: [at('/redfish/v1/Machines/blue/Cage/0')] },
  '/redfish/v1/Machines/blue/Cage/0': {
    '@odata.id': '/redfish/v1/Machines/blue/Cage/0',
    Id: '0',
    Drives: [at('/redfish/v1/Boxes/twin/Drives/a'), at('/redfish/v1/Boxes/twin/Drives/b')],
  },
  '/redfish/v1/Boxes/twin/Drives/a': {
    '@odata.id': '/redfish/v1/Boxes/twin/Drives/a',
    Id: 'a',
    Name: 'front left',
    FailurePredicted: true,
    PredictedMediaLifeLeftPercent: 3,
    Status: { State: 'Enabled', Health: 'Warning' },
  },
  '/redfish/v1/Boxes/twin/Drives/b': {
    '@odata.id': '/redfish/v1/Boxes/twin/Drives/b',
    Id: 'b',
    Status: { State: 'Absent' },
  },
  '/redfish/v1/Boxes/twin': {
    '@odata.id': '/redfish/v1/Boxes/twin',
    Id: 'twin',
    Thermal: at('/redfish/v1/Boxes/twin/Heat'),
  },
  '/redfish/v1/Boxes/twin/Heat': {
    Fans: [
      {
        MemberId: '0',
        Name: 'Fan left',
        Reading: 60,
        ReadingUnits: 'Percent',
        Status: { State: 'Enabled', Health: 'OK' },
      },
      {
        MemberId: '1',
        Name: 'Fan right',
        Reading: null,
        ReadingUnits: 'RPM',
        Status: { State: 'Enabled', Health: null },
      },
    ],
    Temperatures: [{ MemberId: 'in', Name: 'front air', ReadingCelsius: 21.5, Status: { State: 'Enabled' } }],
  },
}

async function findings(documents: Documents) {
  return findingsOf(await walk(service(documents).get))
}
const valueOf = (found: Awaited<ReturnType<typeof findings>>, part: string, measure: string) =>
  found.readings.find((reading) => reading.part === part && reading.measure === measure)?.value

describe('a service of another build', () => {
  test('pages are followed, and every system is a gear', async () => {
    const { gear } = await findings(odd)
    expect(gear.map((each) => each.name)).toEqual(['Blue node', 'red'])
    expect(gear[0]?.identities).toEqual([{ kind: 'serial', value: 'BL-1' }])
  })
  test('an empty bay is idle, and nothing is read of it', async () => {
    const { gear, readings } = await findings(odd)
    expect(gear[0]?.parts.map((part) => part.key)).toEqual([
      'drive a',
      'drive b',
      'temperature in',
      'fan 0',
      'fan 1',
    ])
    expect(gear[0]?.parts.filter((part) => part.idle !== undefined).map((part) => part.key)).toEqual([
      'drive b',
    ])
    expect(readings.filter((each) => each.part === 'drive b')).toEqual([])
  })
  test('values keep their meaning: 3 % left is 0.03, a predicted failure is 1, null is unknown', async () => {
    const found = await findings(odd)
    expect(valueOf(found, 'drive a', 'hw.drive.life_left')).toBeCloseTo(0.03)
    expect(valueOf(found, 'drive a', 'hw.drive.predicted_failure')).toBe(1)
    expect(valueOf(found, 'drive a', 'hw.status')).toBe(1)
    expect(valueOf(found, 'fan 1', 'hw.fan.speed')).toBeNull()
    expect(valueOf(found, 'fan 1', 'hw.status')).toBeNull()
  })
  test('a fan that reports percent has no speed in rpm', async () => {
    const found = await findings(odd)
    expect(valueOf(found, 'fan 0', 'hw.fan.speed')).toBeUndefined()
    expect(valueOf(found, 'fan 0', 'hw.fan.speed_ratio')).toBeCloseTo(0.6)
  })
  test('a machine that is off is off', async () => {
    const found = await findings(odd)
    expect(found.readings.find((reading) => reading.measure === 'hw.power.state')?.value).toBe(0)
  })
})

describe('expanded collections', () => {
  const expanding: Documents = {
    '/redfish/v1': { Systems: at('/s'), ProtocolFeaturesSupported: { ExpandQuery: { NoLinks: true } } },
    '/s?$expand=.': { Members: [{ '@odata.id': '/s/1', Id: '1', Name: 'n', Memory: at('/s/1/m') }] },
    '/s/1/m?$expand=.': {
      Members: [{ '@odata.id': '/s/1/m/1', Id: '1', Status: { Health: 'Critical' } }, at('/s/1/m/2')],
    },
    '/s/1/m/2': { '@odata.id': '/s/1/m/2', Id: '2' },
  }
  test('are read in one request, and members that are only links are followed', async () => {
    const { asked, get } = service(expanding)
    const found = findingsOf(await walk(get))
    expect(found.gear[0]?.parts.map((part) => part.key)).toEqual(['memory 1', 'memory 2'])
    expect(asked).toEqual(['/redfish/v1/', '/s?$expand=.', '/s/1/m?$expand=.', '/s/1/m/2'])
  })
})

describe('documents of the wrong shape', () => {
  test.each([
    { name: 'a list for a root', root: [], says: /\/redfish\/v1\// },
    { name: 'no systems', root: {}, says: /names no Systems, no Chassis/ },
    { name: 'text for a link', root: { Systems: 'over there' }, says: /at Systems/ },
  ])('$name is named', async ({ root, says }) => {
    await expect(walk(service({ '/redfish/v1': root }).get)).rejects.toThrow(says)
  })
  test('a collection that links to its own first page forever comes to an end', async () => {
    const { asked, get } = service({
      '/redfish/v1': { Systems: at('/s') },
      '/s': { Members: [], 'Members@odata.nextLink': '/s' },
    })
    expect((await walk(get)).systems).toEqual([])
    expect(asked.length).toBeLessThan(60)
  })
})
