import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { type GroupDefinition, groupSentence, groupState } from './group.ts'
import { GEAR_STATES, type GearState } from './state.ts'

const any = { rule: 'any', least: 1, unknown: 'open' } as const
const all = { rule: 'all', least: 1, unknown: 'open' } as const
const two = { rule: 'atLeast', least: 2, unknown: 'open' } as const
const [W, C, N, L]: GearState[] = ['well', 'critical', 'noData', 'warning']

describe('a group by its rule', () => {
  test.each<[string, GearState[], GroupDefinition, GearState]>([
    ['any: one works', [C!, C!, W!], any, 'warning'],
    ['any: all work', [W!, W!], any, 'well'],
    ['any: none works', [C!, C!], any, 'critical'],
    ['any: none is known to work, one may', [C!, N!], any, 'noData'],
    ['any: the unknown counts as failed', [C!, N!], { ...any, unknown: 'bad' }, 'critical'],
    ['any: the unknown counts as working', [C!, N!], { ...any, unknown: 'well' }, 'warning'],
    ['all: all work', [W!, W!, W!], all, 'well'],
    ['all: one is in warning', [W!, L!], all, 'warning'],
    ['all: one has failed', [W!, C!, W!], all, 'critical'],
    ['all: one is unknown', [W!, N!], all, 'noData'],
    ['all: one has failed and one is unknown', [C!, N!], all, 'critical'],
    ['all: the unknown counts as working', [W!, N!], { ...all, unknown: 'well' }, 'warning'],
    ['all: the unknown counts as failed', [W!, N!], { ...all, unknown: 'bad' }, 'critical'],
    ['at least 2 of 3: all work', [W!, W!, W!], two, 'well'],
    ['at least 2 of 3: one has failed', [W!, C!, W!], two, 'warning'],
    ['at least 2 of 3: two have failed', [C!, C!, W!], two, 'critical'],
    ['at least 2 of 3: one works, one is unknown', [W!, N!, C!], two, 'noData'],
    ['at least 2 of 3: two work, one is unknown', [W!, N!, W!], two, 'warning'],
    ['at least 2 of 3: the unknown counts as failed', [W!, N!, C!], { ...two, unknown: 'bad' }, 'critical'],
    ['at least 2 of 3: the unknown counts as working', [W!, N!, C!], { ...two, unknown: 'well' }, 'warning'],
    ['nobody belongs to it', [], all, 'noData'],
  ])('%s', (_, members, group, state) => expect(groupState(members, group).state).toBe(state))

  test('a member that mends never makes it worse', () => {
    const better: Record<GearState, number> = { critical: 0, noData: 1, warning: 2, quiet: 3, well: 3 }
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom(...GEAR_STATES), { minLength: 1, maxLength: 8 }),
        fc.nat(),
        fc.constantFrom<GroupDefinition>(any, all, two, { ...two, unknown: 'bad' }),
        (members, at, group) => {
          const mended = members.map((state, index) => (index === at % members.length ? 'well' : state))
          expect(better[groupState(mended, group).state]).toBeGreaterThanOrEqual(
            better[groupState(members, group).state],
          )
        },
      ),
    )
  })
  test('in words', () => {
    expect(groupSentence(two, groupState([W!, C!, N!], two))).toBe(
      '2 of 3 have to work; 1 does, 1 does not, of 1 nothing is heard.',
    )
    expect(groupSentence(all, groupState([W!, W!], all))).toBe('All 2 have to work; all do.')
    expect(groupSentence(any, groupState([], any))).toBe('Nothing belongs to it yet.')
  })
})
