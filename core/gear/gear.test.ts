import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { fitsRack, overlaps, placeLabel, unitLabel } from '../site/index.ts'
import { rollUp } from './state.ts'
import { usableIdentities } from './identity.ts'

describe('identities', () => {
  test('one box reads the same however its UUID is written, UUID first', () => {
    const written = [
      '6F1C2A4E-0B7D-4C55-9E10-000000000719',
      '{6f1c2a4e0b7d4c559e10000000000719}',
      'urn:uuid:6f1c2a4e-0b7d-4c55-9e10-000000000719',
    ]
    for (const value of written) {
      expect(
        usableIdentities([
          { kind: 'serial', value: ' nv24-00719 ' },
          { kind: 'uuid', value },
        ]),
      ).toEqual([
        { kind: 'uuid', value: '6f1c2a4e-0b7d-4c55-9e10-000000000719' },
        { kind: 'serial', value: 'NV24-00719' },
      ])
    }
  })
  test.each(['', 'None', 'To be filled by O.E.M.', '0123456789', ' 0 '])(
    'the serial “%s” names no single box',
    (value) => {
      expect(usableIdentities([{ kind: 'serial', value }])).toEqual([])
    },
  )
  // RFC 4122 §4.1.7: the nil UUID; the all-ones UUID is its counterpart in RFC 9562 §5.10.
  test.each(['00000000-0000-0000-0000-000000000000', 'ffffffff-ffff-ffff-ffff-ffffffffffff', 'not-a-uuid'])(
    '%s is no UUID of a box',
    (value) => {
      expect(usableIdentities([{ kind: 'uuid', value }])).toEqual([])
    },
  )
})

describe('places', () => {
  test('labels', () => {
    expect(unitLabel({ unit: 18, heightUnits: 2 })).toBe('U18–19')
    expect(unitLabel({ unit: 7, heightUnits: 1 })).toBe('U07')
    expect(placeLabel({ room: 'Breakwater Hall', rack: 'B04', position: { unit: 18, heightUnits: 2 } })).toBe(
      'Breakwater Hall · B04 · U18–19',
    )
    expect(placeLabel({ room: null, rack: null, position: null, onName: 'petrel-07' })).toBe('on petrel-07')
    expect(placeLabel({ room: null, rack: null, position: null })).toBeNull()
  })
  test('two gear overlap exactly when they share a unit', () => {
    const position = fc.record({
      unit: fc.integer({ min: 1, max: 42 }),
      heightUnits: fc.integer({ min: 1, max: 8 }),
    })
    const units = ({ unit, heightUnits }: { unit: number; heightUnits: number }) =>
      Array.from({ length: heightUnits }, (_, i) => unit + i)
    fc.assert(
      fc.property(position, position, (a, b) => {
        expect(overlaps(a, b)).toBe(units(a).some((unit) => units(b).includes(unit)))
      }),
    )
  })
  test.each([
    { unit: 41, heightUnits: 2, fits: true },
    { unit: 42, heightUnits: 2, fits: false },
    { unit: 0, heightUnits: 1, fits: false },
  ])('U$unit, $heightUnits U high, in 42 U: $fits', ({ fits, ...position }) => {
    expect(fitsRack(position, 42)).toBe(fits)
  })
})

test.each([
  { open: [], silent: false, state: 'well' },
  { open: [], silent: true, state: 'noData' },
  { open: ['warning'] as const, silent: true, state: 'warning' },
  { open: ['warning', 'critical'] as const, silent: false, state: 'critical' },
])('$open with silent=$silent is $state', ({ open, silent, state }) => {
  expect(rollUp(open, silent)).toBe(state)
})
