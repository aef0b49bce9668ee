import fc from 'fast-check'
import { describe, expect, test } from 'vitest'
import { LINK_KINDS } from '../catalogue/index.ts'
import {
  drawPath,
  feedSentence,
  feedsOf,
  NODE_HEIGHT,
  NODE_WIDTH,
  type PathGear,
  type PathGraph,
  type PathLink,
  pathOf,
} from './path.ts'
import { GEAR_STATES } from '../gear/state.ts'
import { pathSentences, withFaults } from './pathSentences.ts'

const KINDS = [
  'machine',
  'server',
  'chassis',
  'store',
  'switch',
  'array',
  'pdu',
  'ups',
  'cooling',
  'generator',
] as const

/** “a server, b ups” and “a fed-by b” as a graph. */
function graphOf(
  gear: Record<string, PathGear['kind']>,
  links: readonly string[],
): PathGraph & { id(name: string): number } {
  const names = Object.keys(gear)
  const id = (name: string): number => names.indexOf(name) + 1
  return {
    gear: new Map(
      names.map((name) => [id(name), { id: id(name), name, kind: gear[name]!, state: 'well' as const }]),
    ),
    links: links.map((text) => {
      const [from, kind, to, fault] = text.split(' ')
      return {
        kind: kind as PathLink['kind'],
        fromId: id(from!),
        toId: id(to!),
        fromPart: null,
        toPart: null,
        fromPartId: null,
        toPartId: null,
        fault: fault ?? null,
      }
    }),
    id,
  }
}
const site = graphOf(
  {
    tides: 'group',
    'tide-1': 'machine',
    'tide-2': 'machine',
    blade: 'server',
    box: 'chassis',
    s1: 'store',
    s2: 'store',
    sw1: 'switch',
    sw2: 'switch',
    array: 'array',
    a: 'pdu',
    b: 'pdu',
    'ups-a': 'ups',
    'ups-b': 'ups',
    gen: 'generator',
    air: 'cooling',
    other: 'server',
  },
  [
    'tides belongs tide-1',
    'tides belongs tide-2',
    'blade hosts tide-1',
    'other hosts tide-2',
    'box contains blade',
    'tide-1 stores-on s1',
    'blade stores-on s2',
    's1 stores-on array',
    's2 stores-on array',
    'blade wired-to sw1',
    'sw1 wired-to sw2',
    'array wired-to sw2',
    'box fed-by a',
    'box fed-by b',
    'a fed-by ups-a',
    'b fed-by ups-b',
    'ups-a fed-by gen',
    'box cooled-by air',
    'array fed-by a',
  ],
)
const named = (path: PathGraph): string[] => [...path.gear.values()].map(({ name }) => name).sort()

describe('what something hangs on', () => {
  test('a machine: its group, host, chassis, own store, array, switches, power and air; not the host’s other stores', () => {
    expect(named(pathOf(site, [site.id('tide-1')]))).toEqual(
      [
        'a',
        'air',
        'array',
        'b',
        'blade',
        'box',
        'gen',
        's1',
        'sw1',
        'sw2',
        'tide-1',
        'tides',
        'ups-a',
        'ups-b',
      ].sort(),
    )
  })
  test('the wire between two switches is there when both are on the way', () => {
    const { links } = pathOf(site, [site.id('tide-1')])
    expect(links.filter(({ kind }) => kind === 'wired-to')).toHaveLength(3)
  })
  test('a UPS: what hangs on it by power and what runs there; and what feeds it', () => {
    expect(named(pathOf(site, [site.id('ups-a')]))).toEqual(
      ['a', 'array', 'blade', 'box', 'gen', 'tide-1', 'tides', 'ups-a'].sort(),
    )
  })
  test('a group: its members and all that they need', () => {
    const names = named(pathOf(site, [site.id('tides')]))
    expect(names).toEqual(expect.arrayContaining(['tide-1', 'tide-2', 'other', 'blade', 'array', 'ups-b']))
  })
  test('a host asked for itself has its stores', () => {
    expect(named(pathOf(site, [site.id('blade')]))).toContain('s2')
  })
})

describe('feeds', () => {
  const cords = graphOf(
    {
      s: 'server',
      t: 'server',
      u: 'server',
      v: 'server',
      a: 'pdu',
      b: 'pdu',
      c: 'pdu',
      ua: 'ups',
      ub: 'ups',
    },
    [
      's fed-by a',
      's fed-by b',
      't fed-by a',
      't fed-by c',
      'u fed-by a',
      'a fed-by ua',
      'c fed-by ua',
      'b fed-by ub',
    ],
  )
  test.each([
    ['s', 's hangs on ua and ub: either can be lost.'],
    ['t', 'Both cords of t hang on ua: without it, t is off.'],
    ['u', 'u hangs on ua alone, by one cord.'],
    ['v', null],
  ])('%s', (name, sentence) => {
    expect(feedSentence(name, feedsOf(cords, cords.id(name)))).toBe(sentence)
  })
})

describe('the drawing', () => {
  test('a fault is on the link that has it, also where several are drawn as one', () => {
    const graph = graphOf({ a: 'array', sw: 'switch' }, ['a wired-to sw', 'a wired-to sw down'])
    const { edges } = drawPath(graph, [1])
    expect(edges).toHaveLength(1)
    expect(edges[0]).toMatchObject({ count: 2, fault: 'down' })
  })
  test('many of a kind on one host are one; the one that is asked for, and the one that is bad, are not', () => {
    const names = Array.from({ length: 12 }, (_, index) => `m${index}`)
    const graph = graphOf(
      { h: 'server', ...Object.fromEntries(names.map((name) => [name, 'machine' as const])) },
      names.map((name) => `h hosts ${name}`),
    )
    const bad = graph.gear.get(graph.id('m7'))!
    const gear = new Map(graph.gear).set(bad.id, { ...bad, state: 'critical' })
    const { nodes } = drawPath({ gear, links: graph.links }, [graph.id('m0')])
    expect(nodes.map(({ name, bundle }) => [name, bundle.length]).sort()).toEqual(
      [
        ['h', 0],
        ['m0', 0],
        ['m1', 10],
        ['m7', 0],
      ].sort(),
    )
  })
  test('no two nodes overlap, every link has both ends, and what is needed stands to the right', () => {
    const graph = fc
      .record({
        gear: fc.array(
          fc.record({ kind: fc.constantFrom(...KINDS), state: fc.constantFrom(...GEAR_STATES) }),
          { minLength: 1, maxLength: 40 },
        ),
        links: fc.array(
          fc.record({
            kind: fc.constantFrom(...LINK_KINDS),
            from: fc.nat(),
            to: fc.nat(),
            isBroken: fc.boolean(),
          }),
          { maxLength: 90 },
        ),
      })
      .map(({ gear, links }): PathGraph => ({
        gear: new Map(gear.map((each, index) => [index + 1, { ...each, id: index + 1, name: `g${index}` }])),
        links: links.map(({ kind, from, to, isBroken }) => ({
          kind,
          fromId: (from % gear.length) + 1,
          toId: (to % gear.length) + 1,
          fromPart: null,
          toPart: null,
          fromPartId: null,
          toPartId: null,
          fault: isBroken ? 'broken' : null,
        })),
      }))
    fc.assert(
      fc.property(graph, fc.nat(), (all, start) => {
        const id = (start % all.gear.size) + 1
        const path = pathOf(all, [id])
        const { nodes, edges, width, height } = drawPath(path, [id])
        expect(nodes.some((node) => node.id === id && node.isStart)).toBe(true)
        for (const [index, a] of nodes.entries()) {
          expect(a.x + NODE_WIDTH).toBeLessThanOrEqual(width)
          expect(a.y + NODE_HEIGHT).toBeLessThanOrEqual(height)
          for (const b of nodes.slice(index + 1))
            expect(Math.abs(a.x - b.x) >= NODE_WIDTH || Math.abs(a.y - b.y) >= NODE_HEIGHT).toBe(true)
        }
        const drawn = new Set(nodes.map((node) => node.id))
        for (const { fromId, toId } of edges) {
          expect(drawn.has(fromId) && drawn.has(toId)).toBe(true)
          expect(fromId).not.toBe(toId)
        }
        const shown = nodes.flatMap((node) => (node.bundle.length === 0 ? [node] : node.bundle))
        expect(shown.map((node) => node.id).sort()).toEqual([...path.gear.keys()].sort())
      }),
    )
  })
})

describe('what a path has found', () => {
  const graph = graphOf({ a: 'server', sw: 'switch', u: 'ups' }, ['a wired-to sw', 'a fed-by u'])
  const linked = {
    ...graph,
    links: graph.links.map((link) =>
      link.kind === 'wired-to' ? { ...link, toPart: 'xe-17', toPartId: 71 } : link,
    ),
  }
  test('a part that carries nothing breaks its link, and is named', () => {
    const path = withFaults(linked, new Map([[71, 'down']]))
    expect(path.links.map(({ fault }) => fault)).toEqual(['port xe-17 of sw is down', null])
    expect(pathSentences(linked, path, [graph.id('a')])[0]).toBe('On the way, port xe-17 of sw is down.')
  })
  test('what is not well is named by its state; the start is not repeated', () => {
    const bad = {
      ...linked,
      gear: new Map([...linked.gear].map(([id, each]) => [id, { ...each, state: 'warning' as const }])),
    }
    expect(pathSentences(bad, bad, [graph.id('a')])[0]).toBe('On the way, sw and u are in warning.')
  })
  test('with nothing wrong it says so', () => {
    expect(pathSentences(linked, linked, [graph.id('a')])[0]).toBe('Everything on the way is well.')
  })
})
