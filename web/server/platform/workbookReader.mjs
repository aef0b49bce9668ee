// The thread in which a workbook is read: see workbook.ts.
import { parentPort, workerData } from 'node:worker_threads'
import { unzipSync } from 'fflate'
import { readSheet } from 'read-excel-file/node'

const { bytes, most } = workerData
const MOST_BYTES = 64 * 1024 * 1024

/** The number of a column by its letters: A is 1. @param {string} letters */
const columnOf = (letters) =>
  [...letters].reduce((number, letter) => number * 26 + letter.charCodeAt(0) - 64, 0)

/** Why its sheets are not read; `null` when they may be: the library makes room for everything up to the last cell. */
function problemOf() {
  let unpacked = 0
  const files = unzipSync(bytes, {
    filter({ name, originalSize }) {
      unpacked += originalSize
      if (unpacked > MOST_BYTES) throw new Error('it unpacks to more than 64 MiB')
      return /^xl\/worksheets\/.*\.xml$/.test(name)
    },
  })
  for (const sheet of Object.values(files))
    for (const [, letters = '', digits = ''] of Buffer.from(sheet)
      .toString('latin1')
      .matchAll(/<c\b[^>]*?\br="([A-Z]{1,8})(\d{1,9})"/g))
      if (columnOf(letters) > most.columns || Number(digits) > most.rows)
        return `it has a cell at ${letters}${digits}; at most ${most.rows} lines and ${most.columns} columns are read`
  return null
}

/** @param {unknown} value */
const textOf = (value) => {
  if (value === null || value === undefined) return ''
  return value instanceof Date ? value.toISOString().slice(0, 10) : String(value)
}

try {
  const problem = problemOf()
  if (problem !== null) parentPort?.postMessage({ problem })
  else {
    const table = await readSheet(Buffer.from(bytes))
    parentPort?.postMessage({ table: table.map((row) => row.map(textOf)) })
  }
} catch (error) {
  parentPort?.postMessage({ problem: error instanceof Error ? error.message : String(error) })
}
