import fc from 'fast-check'
import { afterAll, beforeAll, expect, test } from 'vitest'
import { freshDatabase } from '#db/testing/database'
import type { Db } from '#db/platform'
import { sized } from '../../core/testing/size.ts'
import { readLines } from './gear/inventoryFile.ts'
import { writeWorkbook } from './platform/workbook.ts'
import { Refused } from './platform/refused.ts'
import { planFile } from './site/planFile.ts'
import { importReadings } from './readings/importing.ts'
import { readSourcesCsv } from './sources/sourcesCsv.ts'

// Whatever somebody uploads: lines that are right and sentences for those that are not; never a crash, nothing half-written.

let db: Db
let drop: () => Promise<void>
beforeAll(async () => {
  ;({ db, drop } = await freshDatabase())
})
afterAll(() => drop())

const RUNS = sized(300, 10_000)
const PIECES = [
  ...['name', 'protocol', 'address', 'interval_s', 'unit', 'sign_in', 'community', 'time', 'value', 'serial'],
  ...['snmp', 'modbus', 'redfish', 'https://192.0.2.1', '192.0.2.1:502', 'x'.repeat(300), '=cmd()', "'=x"],
  ...[
    '1',
    '-1',
    '1e400',
    'NaN',
    '2026-02-30',
    '',
    ' ',
    ',',
    ',',
    ',',
    ';',
    '\n',
    '\n',
    '\r\n',
    '"',
    '""',
    '\t',
  ],
  ...['\ufeff', '\u0000', '\u202e', '\ud800', '{', '}', '# EOF', '# TYPE a gauge\n'],
]
const text = fc.array(fc.constantFrom(...PIECES), { maxLength: 40 }).map((pieces) => pieces.join(''))
const headed = (head: string) =>
  fc.oneof(
    text,
    text.map((rest) => `${head}\n${rest}`),
  )
const bytesOf = (given: fc.Arbitrary<string>) =>
  fc.oneof(
    given.map((each) => Buffer.from(each)),
    fc.uint8Array({ maxLength: 200 }).map((each) => Buffer.from(each)),
  )
const MINUTES = 300_000

test(
  'sources by CSV: each line is good or has its sentence',
  async () => {
    await fc.assert(
      fc.asyncProperty(headed('name,protocol,address'), async (given) => {
        const { good, bad } = await readSourcesCsv(db, given)
        for (const { why, line } of bad) {
          expect(why).toMatch(/[.:]/)
          expect(line).toBeGreaterThan(0)
        }
        for (const { name, address } of good) expect(name.length * address.length).toBeGreaterThan(0)
      }),
      { numRuns: RUNS },
    )
  },
  MINUTES,
)

test(
  'an inventory of any bytes is lines with cells, or refused in a sentence',
  async () => {
    await fc.assert(
      fc.asyncProperty(bytesOf(headed('name,serial')), async (given) => {
        fc.pre(given.subarray(0, 2).toString('latin1') !== 'PK')
        try {
          for (const { number, cells } of await readLines(new File([new Uint8Array(given)], 'a.csv'))) {
            expect(number).toBeGreaterThan(1)
            expect(cells.size).toBeGreaterThan(0)
          }
        } catch (error) {
          expect(error).toBeInstanceOf(Refused)
        }
      }),
      { numRuns: RUNS },
    )
  },
  MINUTES,
)

test(
  'a workbook with octets changed anywhere is a table or refused',
  async () => {
    const whole = await writeWorkbook([
      { name: 'Gear', head: ['name', 'serial'], rows: [['petrel-07', 'S1']] },
    ])
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { minLength: 1, maxLength: 12 }),
        fc.option(fc.nat(whole.length)),
        async (changes, end) => {
          const given = Buffer.from(whole.subarray(0, end ?? whole.length))
          for (const [at, value] of changes) if (at > 1 && at < given.length) given[at] = value
          try {
            await readLines(new File([new Uint8Array(given)], 'a.xlsx'))
          } catch (error) {
            expect(error).toBeInstanceOf(Refused)
          }
        },
      ),
      { numRuns: sized(30, 1000) },
    )
  },
  MINUTES,
)

test(
  'readings from any text are counted as taken or as bad',
  async () => {
    await fc.assert(
      fc.asyncProperty(bytesOf(headed('gear,part,measure,time,value')), async (given) => {
        const done = await importReadings(db, new Blob([new Uint8Array(given)]).stream(), Date.now())
        expect(done.taken).toBe(0)
      }),
      { numRuns: RUNS },
    )
  },
  MINUTES,
)

test(
  'a plan of any shape is a plan or says where it is none',
  () => {
    const names = [
      'format',
      'version',
      'rooms',
      'name',
      'racks',
      'gear',
      'widthMm',
      'depthMm',
      'unit',
      '__proto__',
    ]
    const { value } = fc.letrec((tie) => ({
      value: fc.oneof(
        { depthSize: 'small' },
        fc.constantFrom(null, 1, -1, 1e308, 'restless-rack/plan', '', true),
        fc.array(tie('value'), { maxLength: 3 }),
        fc.dictionary(fc.constantFrom(...names), tie('value'), { maxKeys: 6 }),
      ),
    }))
    fc.assert(
      fc.property(value, (given) => {
        const parsed = planFile.safeParse(given)
        if (!parsed.success) expect(parsed.error.issues.length).toBeGreaterThan(0)
      }),
      { numRuns: sized(1000, 10_000) },
    )
  },
  MINUTES,
)
