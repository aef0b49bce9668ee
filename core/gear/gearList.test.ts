import { describe, expect, it } from 'vitest'
import { fitsGearList, gearListFilterOf, type GearListRow, isFiltering } from './index.ts'

const petrel: GearListRow = {
  id: 1,
  name: 'petrel-07',
  kind: 'server',
  state: 'warning',
  model: 'Tern 24',
  serial: 'NV24-00715',
  place: 'Hall B · B04 · U12',
  tags: ['forecast'],
  openCount: 1,
}
const fits = (query: string, gear = petrel) =>
  fitsGearList(gear, gearListFilterOf(new URLSearchParams(query)))

describe('the list of gear', () => {
  it('is filtered by kind, state, place and words, all of them at once', () => {
    expect(fits('')).toBe(true)
    expect(fits('q=nv24&kind=server&state=warning&place=placed')).toBe(true)
    expect(fits('q=FORECAST')).toBe(true)
    expect(fits('q=hall b')).toBe(true)
    expect(fits('q=tide')).toBe(false)
    expect(fits('kind=ups')).toBe(false)
    expect(fits('state=critical')).toBe(false)
    expect(fits('place=stock')).toBe(false)
    expect(fits('place=stock', { ...petrel, place: null })).toBe(true)
  })

  it('is filtered when an address says so', () => {
    expect(isFiltering(gearListFilterOf(new URLSearchParams('q=%20&part=3')))).toBe(false)
    expect(isFiltering(gearListFilterOf(new URLSearchParams('state=critical')))).toBe(true)
  })
})
