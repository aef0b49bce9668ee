import { afterAll, beforeAll, expect, test } from 'vitest'
import type { Db } from '#db/platform'
import { insertCredential, insertSource, listSources, reconnectSource } from '#db/sources'
import { freshDatabase } from '#db/testing/database'
import { exportSources, keepLines, readSourcesCsv } from './sourcesCsv.ts'

let db: Db
let drop: () => Promise<void>
const key = Buffer.alloc(32, 7)

beforeAll(async () => {
  const fresh = await freshDatabase()
  db = fresh.db
  drop = fresh.drop
  const user = await insertCredential(db, key, {
    name: 'controllers, read only',
    kind: 'basic',
    secret: { username: 'reader', password: 'never-in-a-file' },
    hosts: ['192.0.2.0/24'],
  })
  await insertCredential(db, key, {
    name: 'harbour',
    kind: 'snmp-v2c',
    secret: { community: 'never-either' },
    hosts: ['192.0.2.0/24'],
  })
  await insertSource(db, {
    name: 'petrel-01 controller',
    protocol: 'redfish',
    address: 'https://192.0.2.41',
    settings: {
      authorityPem: '-----BEGIN CERTIFICATE-----\nAAAA\n-----END CERTIFICATE-----',
      fingerprint: null,
      signIn: 'basic',
    },
    intervalSeconds: 60,
    credentialId: user,
    token: null,
  })
})
afterAll(() => drop())

const good = [
  'name,protocol,address,interval_s,credential,mapping,version,unit,gear,sign_in',
  'harbour-A card,snmp,192.0.2.31,30,harbour,,v2c,,',
  '"brume-1, panel",modbus,192.0.2.51:502,,,Brumehall IR-20 in-row cooling unit,,3,brume-1',
  'gate,reach,icmp://192.0.2.1,,,,,,',
  'petrel-02 controller,redfish,192.0.2.42,,"controllers, read only",,,,,session',
]

test('good lines, with what is usual where nothing is said', async () => {
  const read = await readSourcesCsv(db, good.join('\r\n'))
  expect(read.bad).toEqual([])
  expect(
    read.good.map(({ line, name, address, intervalSeconds, settings }) => [
      line,
      name,
      address,
      intervalSeconds,
      settings,
    ]),
  ).toEqual([
    [2, 'harbour-A card', '192.0.2.31', 30, { version: 'v2c', authentication: 'sha256', privacy: 'aes' }],
    [3, 'brume-1, panel', '192.0.2.51:502', 30, { unit: 3, name: 'brume-1' }],
    [4, 'gate', 'icmp://192.0.2.1', 30, { authorityPem: null, fingerprint: null, name: 'gate' }],
    [
      5,
      'petrel-02 controller',
      'https://192.0.2.42',
      60,
      { authorityPem: null, fingerprint: null, signIn: 'session' },
    ],
  ])
  expect((await listSources(db)).map(({ name }) => name)).toEqual(['petrel-01 controller'])
})
test('bad lines each with what is wrong, and the good ones beside them', async () => {
  const text = [
    good[0],
    ',snmp,192.0.2.60,,harbour,,v2c,,',
    'a,telnet,192.0.2.61,,,,,,',
    'b,redfish,http://192.0.2.62,,"controllers, read only",,,,',
    'c,snmp,192.0.2.63,,nobody,,v2c,,',
    'd,snmp,192.0.2.64,,"controllers, read only",,v2c,,',
    'e,snmp,192.0.2.65,2,harbour,,v2c,,',
    'f,modbus,192.0.2.66,,,,,,',
    'g,modbus,192.0.2.67,,,no such map,,,',
    'h,reach,192.0.2.68,,,,,,',
    'petrel-01 controller,reach,icmp://192.0.2.69,,,,,,',
    'i,redfish,192.0.2.41,,"controllers, read only",,,,',
    'j,reach,icmp://192.0.2.70,,harbour,,,,',
    'k,reach,icmp://192.0.2.71,,,,,,',
    'k,reach,icmp://192.0.2.72,,,,,,',
    '"l',
    'm",reach,icmp://192.0.2.73,,,,,,',
    'n,snmp,192.0.2.74,,,,v2c,,',
    'o,redfish,198.51.100.7,,"controllers, read only",,,,',
  ].join('\n')
  const { good: kept, bad } = await readSourcesCsv(db, text)
  expect(kept.map(({ name }) => name)).toEqual(['k', 'l\nm'])
  expect(bad.map(({ line, why }) => `${line}: ${why}`)).toEqual([
    '2: Enter a name for the source.',
    '3: “telnet” is not a protocol here; known are redfish, reach, snmp, openmetrics, modbus.',
    '4: The address of a controller is a host, or begins with https://.',
    '5: No credential called “nobody” is kept.',
    '6: The credential controllers, read only is of another kind than this source needs.',
    '7: An interval has at least 5 s.',
    '8: It needs a mapping; name one that is kept.',
    '9: No mapping called “no such map” is kept for modbus.',
    '10: The address of a service begins with icmp://, tcp://, http:// or https://.',
    '11: There is a source called petrel-01 controller already.',
    '12: https://192.0.2.41 is asked already, by petrel-01 controller.',
    '13: It goes in without a credential, and harbour is named.',
    '15: The name k stands in line 14 already.',
    '18: It needs a credential; name one that is kept.',
    '19: The credential controllers, read only is not for there; it may go to 192.0.2.0/24 alone, and this is 198.51.100.7.',
  ])
})
test('a second unit behind one gateway is another source, and the same unit twice is not', async () => {
  const text = [
    'name,protocol,address,unit,mapping',
    ...[1, 2, 2].map(
      (unit, at) => `meter ${at},modbus,192.0.2.80:502,${unit},Brumehall IR-20 in-row cooling unit`,
    ),
  ].join('\n')
  const { good: kept, bad } = await readSourcesCsv(db, text)
  expect(kept.map(({ name }) => name)).toEqual(['meter 0', 'meter 1'])
  expect(bad).toEqual([{ line: 4, why: '192.0.2.80:502 stands in line 3 already.' }])
})
test('sources that are there are changed by name when that is asked for, and keep what they have', async () => {
  const text = [
    'name,protocol,address,interval_s,credential',
    'petrel-01 controller,redfish,192.0.2.141,120,"controllers, read only"',
    'petrel-21 controller,redfish,192.0.2.142,,"controllers, read only"',
  ].join('\n')
  const before = (await listSources(db)).find(({ name }) => name === 'petrel-01 controller')!
  await db.transaction().execute(async (trx) => {
    const { good: kept, bad } = await readSourcesCsv(trx, text, { mayChange: true })
    expect([bad, kept.map(({ changesId }) => changesId)]).toEqual([[], [before.id, null]])
    await keepLines(trx, kept)
    const after = (await listSources(trx)).find(({ id }) => id === before.id)!
    expect(after).toMatchObject({
      address: 'https://192.0.2.141',
      intervalSeconds: 120,
      slower: before.slower,
    })
    const other = 'name,protocol,address\npetrel-01 controller,reach,icmp://192.0.2.9'
    expect((await readSourcesCsv(trx, other, { mayChange: true })).bad[0]!.why).toContain(
      'is read by redfish',
    )
    await trx.deleteFrom('source').where('name', '=', 'petrel-21 controller').execute()
    await reconnectSource(trx, before.id, { ...before, mappingId: null })
  })
})
test.each<[string, RegExp]>([
  ['', /names the columns/],
  ['address\n1.2.3.4', /name, protocol and address are needed/],
  ['name,protocol,address,password\na,snmp,b,c', /“password” is not known/],
  ['name,protocol,address\n"a,snmp,b', /not CSV/],
])('%j is not such a file', async (text, why) => {
  const { good: kept, bad } = await readSourcesCsv(db, text)
  expect(kept).toEqual([])
  expect(bad[0]!.why).toMatch(why)
})
test('what is written out comes in again, the same; nothing secret is in it', async () => {
  await keepLines(db, (await readSourcesCsv(db, good.join('\n'))).good)
  const before = await listSources(db)
  const text = await exportSources(db)
  expect(text).not.toMatch(/never/)
  await db.deleteFrom('source').execute()
  const { good: again, bad } = await readSourcesCsv(db, text)
  expect(bad).toEqual([])
  await keepLines(db, again)
  const shape = ({
    name,
    protocol,
    address,
    settings,
    intervalSeconds,
    newItems,
    credentialName,
    mappingId,
  }: (typeof before)[number]) => [
    name,
    protocol,
    address,
    settings,
    intervalSeconds,
    newItems,
    credentialName,
    mappingId,
  ]
  expect((await listSources(db)).map(shape)).toEqual(before.map(shape))
})
