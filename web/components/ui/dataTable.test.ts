import { describe, expect, it } from 'vitest'
import { type Column, nextSort, sortRows } from './dataTable.ts'
import { csvOf } from './tableCsv.ts'

interface Host {
  readonly name: string
  readonly watts: number | null
}
const NAME: Column<Host> = { key: 'name', label: 'Name', width: '', value: ({ name }) => name }
const POWER: Column<Host> = {
  key: 'watts',
  label: 'Power',
  width: '',
  isNumber: true,
  value: ({ watts }) => watts,
}
const HOSTS: readonly Host[] = [
  { name: 'petrel-10', watts: 390 },
  { name: 'petrel-9', watts: null },
  { name: 'Petrel-2', watts: 41 },
]
const names = (sort: string): string[] => sortRows(HOSTS, [NAME, POWER], sort).map(({ name }) => name)

describe('a table', () => {
  it('sorts numbers within names as numbers, and what is not known last in either order', () => {
    expect(names('name')).toEqual(['Petrel-2', 'petrel-9', 'petrel-10'])
    expect(names('watts')).toEqual(['Petrel-2', 'petrel-10', 'petrel-9'])
    expect(names('-watts')).toEqual(['petrel-10', 'Petrel-2', 'petrel-9'])
    expect(names('gone'), 'a column that is not there leaves them as they came').toEqual(
      HOSTS.map(({ name }) => name),
    )
  })

  it('goes from one order to the next, and back to none', () => {
    expect(['', 'name', '-name'].map((sort) => nextSort(sort, NAME))).toEqual(['name', '-name', ''])
    expect(['', '-watts', 'watts', 'name'].map((sort) => nextSort(sort, POWER))).toEqual([
      '-watts',
      'watts',
      '',
      '-watts',
    ])
  })

  it('writes what is shown; a cell that would be a formula gets an apostrophe', () => {
    expect(csvOf([NAME, POWER], [{ name: '=1+2', watts: null }])).toBe("Name,Power\r\n'=1+2,\r\n")
  })
})
