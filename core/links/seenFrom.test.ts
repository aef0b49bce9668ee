import { expect, test } from 'vitest'
import { type LinkWithEnds, linksSeenFrom } from './index.ts'

const link = (id: number, from: number, to: number, more: Partial<LinkWithEnds> = {}): LinkWithEnds => ({
  id,
  kind: 'fed-by',
  ...{ fromGearId: from, fromName: `gear-${from}`, fromKind: 'server', fromPart: `supply ${id}` },
  ...{ toGearId: to, toName: `gear-${to}`, toKind: 'pdu', toPart: `outlet ${id}` },
  source: null,
  who: null,
  ...more,
})

test('links are turned so that the gear itself is near, and stand by the name of the other', () => {
  const seen = linksSeenFrom(2, [
    link(1, 2, 9),
    link(2, 2, 9),
    link(3, 5, 2),
    link(4, 2, 5, { kind: 'hosts' }),
  ])
  expect(seen.map(({ id, otherName, isOutgoing }) => [id, otherName, isOutgoing])).toEqual([
    [3, 'gear-5', false],
    [4, 'gear-5', true],
    [1, 'gear-9', true],
    [2, 'gear-9', true],
  ])
  expect(seen[0]).toMatchObject({ ownPart: 'outlet 3', otherPart: 'supply 3', otherKind: 'server' })
  expect(seen[2]).toMatchObject({ ownPart: 'supply 1', otherPart: 'outlet 1', otherKind: 'pdu' })
})
