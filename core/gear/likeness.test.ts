import { describe, expect, test } from 'vitest'
import type { Identity } from './identity.ts'
import { type Candidate, isContradicted, likelySame, turnedUuid } from './likeness.ts'

let next = 0
const gear = (rest: Partial<Candidate>): Candidate => {
  next += 1
  return { id: next, name: `g${next}`, kind: 'server', identities: [], sourceIds: [next], ...rest }
}
const uuid = (value: string): Identity => ({ kind: 'uuid', value })
const serial = (value: string): Identity => ({ kind: 'serial', value })
const A = '00112233-4455-6677-8899-aabbccddeeff'

test('a UUID turned round, as SMBIOS 3.6 §7.2.1 gives it', () => {
  expect(turnedUuid(A)).toBe('33221100-5544-7766-8899-aabbccddeeff')
  expect(turnedUuid(turnedUuid(A))).toBe(A)
})

describe('what is likely one', () => {
  test.each<[string, Partial<Candidate>, Partial<Candidate>, RegExp | null]>([
    [
      'the same name, server and host',
      { name: 'petrel-07' },
      { name: 'Petrel-07.example', kind: 'host' },
      /both are called petrel-07/,
    ],
    ['the same name, other kinds', { name: 'x' }, { name: 'x', kind: 'ups' }, null],
    [
      'the same name, other UUIDs',
      { name: 'x', identities: [uuid(A)] },
      { name: 'x', identities: [uuid(A.replace('00', '01'))] },
      null,
    ],
    [
      'the same name, one source',
      { name: 'x', sourceIds: [900] },
      { name: 'x', sourceIds: [900, 901] },
      null,
    ],
    ['a UUID turned round', { identities: [uuid(A)] }, { identities: [uuid(turnedUuid(A))] }, /turned round/],
    [
      'a serial number shared, and other UUIDs',
      { identities: [uuid(A), serial('S1')] },
      { identities: [uuid(A.replace('00', '01')), serial('S1')] },
      /both have the serial number S1/,
    ],
    ['nothing in common', {}, {}, null],
  ])('%s', (_, a, b, why) => {
    const found = likelySame([gear(a), gear(b)])
    if (why === null) expect(found).toEqual([])
    else expect(found.map((each) => each.why)).toEqual([expect.stringMatching(why)])
  })
  test('a name that many share names none', () => {
    expect(likelySame(Array.from({ length: 5 }, () => gear({ name: 'localhost' })))).toEqual([])
  })
})

test('a weaker identity counts only where no stronger one speaks against it', () => {
  expect(isContradicted([uuid(A), serial('S')], [serial('S')], 'serial')).toBe(false)
  expect(isContradicted([uuid(A), serial('S')], [uuid(turnedUuid(A)), serial('S')], 'serial')).toBe(false)
  expect(isContradicted([uuid(A), serial('S')], [uuid(A.replace('00', '01')), serial('S')], 'serial')).toBe(
    true,
  )
})
