import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { circleOf, containersOf, type GroupMembers, groupTree } from './groupTree.ts'
import { serviceSentence, servicesSentence } from './serviceWords.ts'
import type { GearState } from './state.ts'

const group = (
  id: number,
  name: string,
  groupIds: readonly number[] = [],
  rest: Partial<GroupMembers> = {},
) => ({
  id,
  name,
  groupIds,
  plain: '',
  rule: 'all' as const,
  least: 1,
  unknown: 'open' as const,
  members: [],
  ...rest,
})
const servers = (...states: readonly GearState[]) =>
  states.map((state, index) => ({ id: index, name: `tern-${index}`, kind: 'server' as const, state }))

describe('groups within groups', () => {
  test('a circle is told from the group back to itself, by whichever way it is entered', () => {
    expect(
      circleOf([group(1, 'a', [2]), group(2, 'b', [3]), group(3, 'c', [4]), group(4, 'd', [2])]),
    ).toEqual(['b', 'c', 'd', 'b'])
    expect(circleOf([group(1, 'a', [1])])).toEqual(['a', 'a'])
    expect(
      circleOf([group(1, 'a', [2, 3]), group(2, 'b', [4]), group(3, 'c', [4]), group(4, 'd')]),
    ).toBeNull()
  })

  /** An order in which each stands before what it contains exists just when there is no circle (Kahn 1962). */
  test('a circle is found just when the groups cannot be put in an order', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 7 }).chain((count) =>
          fc.array(fc.array(fc.integer({ min: 1, max: count }), { maxLength: 3 }), {
            minLength: count,
            maxLength: count,
          }),
        ),
        (inner) => {
          const groups = inner.map((groupIds, index) => group(index + 1, `g${index + 1}`, groupIds))
          const left = new Map(groups.map(({ id, groupIds }) => [id, new Set(groupIds)]))
          for (let found = true; found;) {
            found = false
            for (const [id, rest] of left)
              if ([...rest].every((each) => !left.has(each))) found = left.delete(id)
          }
          expect(circleOf(groups) === null).toBe(left.size === 0)
          const circle = circleOf(groups)
          for (const [index, name] of (circle ?? []).slice(0, -1).entries()) {
            const of = groups.find((each) => each.name === name)!
            expect(of.groupIds.map((id) => `g${id}`)).toContain(circle![index + 1])
          }
        },
      ),
    )
  })

  test('what contains a group, through others too', () => {
    const of = containersOf([group(1, 'a', [2]), group(2, 'b', [3]), group(3, 'c'), group(4, 'd', [3])])
    expect([...of.get(3)!].sort()).toEqual([1, 2, 4])
    expect([...of.get(2)!]).toEqual([1])
    expect([...of.get(1)!]).toEqual([])
    expect([...containersOf([group(1, 'a', [2]), group(2, 'b', [1])]).get(1)!]).toEqual([2])
  })

  test('states go from the innermost out', () => {
    const tree = groupTree([
      group(1, 'forecast', [2], { members: servers('well') }),
      group(2, 'paths', [3, 4], { rule: 'any' }),
      group(3, 'first path', [], { members: servers('well', 'well') }),
      group(4, 'second path', [], { members: servers('well', 'critical') }),
    ])
    expect([4, 3, 2, 1].map((id) => tree.get(id)!.state.state)).toEqual([
      'critical',
      'well',
      'warning',
      'warning',
    ])
  })

  test('a circle, should one be there all the same, ends', () => {
    const tree = groupTree([group(1, 'a', [2]), group(2, 'b', [1], { members: servers('critical') })])
    expect(tree.get(1)!.state.state).toBe('critical')
  })
})

describe('a service in a sentence', () => {
  const paths = (first: GearState, second: GearState, own: readonly GearState[] = ['well']) =>
    groupTree([
      group(1, 'public-forecast', [2], { plain: 'the public forecast', members: servers(...own) }),
      group(2, 'paths', [3, 4], { rule: 'any', plain: 'its data paths' }),
      group(3, 'path-1', [], { plain: 'its first data path', members: servers(first) }),
      group(4, 'path-2', [], { plain: 'its second data path', members: servers(second) }),
    ]).get(1)!

  test.each<[string, Parameters<typeof paths>, string]>([
    ['all is well', ['well', 'well'], 'The public forecast works.'],
    ['one of two is lost', ['well', 'critical'], 'The public forecast works; its second data path is lost.'],
    [
      'both are lost',
      ['critical', 'critical'],
      'The public forecast does not work: its data paths are lost.',
    ],
    [
      'one is not heard',
      ['well', 'noData'],
      'The public forecast works; nothing is heard of its second data path.',
    ],
    [
      'one lost, one not heard',
      ['critical', 'noData'],
      'It cannot be said whether the public forecast works: nothing is heard of its data paths, and its first data path is lost.',
    ],
    [
      'one in warning',
      ['warning', 'well'],
      'The public forecast works; its first data path needs attention.',
    ],
    [
      'gear of its own',
      ['well', 'critical', ['well', 'critical', 'critical']],
      'The public forecast does not work: 2 of 3 servers are lost.',
    ],
  ])('%s', (_, given, sentence) => expect(serviceSentence(paths(...given))).toBe(sentence))

  test('all of them', () => {
    expect(servicesSentence([])).toBe('No service is named yet.')
    expect(servicesSentence([paths('well', 'well'), paths('well', 'well')])).toBe('All 2 services work.')
    expect(servicesSentence([paths('well', 'well'), paths('critical', 'critical')])).toBe(
      'The public forecast does not work; 1 other works.',
    )
    expect(servicesSentence([paths('well', 'well'), paths('well', 'critical')])).toBe(
      'All 2 services work; something is wrong within the public forecast.',
    )
  })
})
