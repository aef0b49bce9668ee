import { expect, test } from 'vitest'
import { silenceWeight, type SilentGear } from './silence.ts'

const gear = (rest: Partial<SilentGear>): SilentGear => ({
  name: 'x',
  kind: 'server',
  others: 0,
  machines: 0,
  ...rest,
})

test('silence of what others hang on, and nothing else tells of, is critical and says why', () => {
  expect(silenceWeight([gear({})], 'warning')).toEqual({ severity: 'warning', why: '' })
  expect(silenceWeight([gear({ name: 'petrel-07', machines: 6 })], 'warning')).toEqual({
    severity: 'critical',
    why: 'Nothing else tells of petrel-07, and 6 machines run on it.',
  })
  expect(silenceWeight([gear({ name: 'petrel-07', machines: 6, others: 1 })], 'warning').severity).toBe(
    'warning',
  )
  expect(silenceWeight([gear({ name: 'harbour-A', kind: 'ups' })], 'warning')).toEqual({
    severity: 'critical',
    why: 'Nothing else tells of harbour-A, and others hang on it.',
  })
  expect(silenceWeight([gear({ kind: 'camera' }), gear({ kind: 'probe' })], 'warning').severity).toBe(
    'warning',
  )
  expect(silenceWeight([], 'critical')).toEqual({ severity: 'critical', why: '' })
})
