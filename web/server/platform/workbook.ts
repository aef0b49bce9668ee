import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import writeExcelFile from 'write-excel-file/node'
import { Refused } from './refused.ts'

export interface Sheet {
  readonly name: string
  readonly head: readonly string[]
  /** A date is what a clock shows there, as if it were UTC: a spreadsheet knows no zones. */
  readonly rows: readonly (readonly (string | number | Date)[])[]
}

const LONGEST_COLUMN = 48

const widthOf = (cell: string | number | Date): number =>
  cell instanceof Date ? 'yyyy-mm-dd hh:mm'.length : String(cell).length

/** A workbook (ISO/IEC 29500), one sheet after the other, with a head that stays. */
export async function writeWorkbook(sheets: readonly Sheet[]): Promise<Buffer> {
  const written = writeExcelFile(
    sheets.map(({ name, head, rows }) => ({
      sheet: name,
      stickyRowsCount: 1,
      columns: head.map((title, index) => ({
        width: Math.min(
          LONGEST_COLUMN,
          rows.reduce((most, row) => Math.max(most, widthOf(row[index] ?? '')), title.length) + 2,
        ),
      })),
      data: [
        head.map((title) => ({ value: title, fontWeight: 'bold' as const })),
        // Text stays text, whatever it begins with: it is no formula.
        ...rows.map((row) =>
          row.map((cell) =>
            cell === ''
              ? null
              : typeof cell === 'number'
                ? { value: cell, type: Number as NumberConstructor }
                : cell instanceof Date
                  ? { value: cell, type: Date as DateConstructor, format: 'yyyy-mm-dd hh:mm' }
                  : { value: cell, type: String as StringConstructor },
          ),
        ),
      ],
    })),
  )
  return Buffer.from(await written.toBuffer())
}

export const MOST_CELLS = { rows: 20_000, columns: 200 } as const
const READ_MS = 15_000
const MEMORY_MB = 256
/** It runs from its file, in a thread of its own: the application starts it from the folder that it lies in. */
const READER = join(process.cwd(), 'web/server/platform/workbookReader.mjs')

interface Answer {
  readonly table?: string[][]
  readonly problem?: string
}

const problemOf = (error: Error): string =>
  'code' in error && error.code === 'ERR_WORKER_OUT_OF_MEMORY'
    ? 'it unpacks to more than is taken'
    : error.message

/**
 * The first sheet of a workbook as text. It is read in a thread with little memory and little time: a small file may say
 * that it has a cell far out, or unpack to more than there is room for.
 * @throws Refused with what is wrong with it
 */
export async function readWorkbook(bytes: Buffer): Promise<string[][]> {
  const worker = new Worker(READER, {
    workerData: { bytes, most: MOST_CELLS },
    resourceLimits: { maxOldGenerationSizeMb: MEMORY_MB },
  })
  const answer = await new Promise<Answer>((resolve) => {
    const late = setTimeout(() => resolve({ problem: 'it takes longer to read than 15 s' }), READ_MS)
    const done = (given: Answer): void => {
      clearTimeout(late)
      resolve(given)
    }
    worker.once('message', done)
    worker.once('error', (error) => done({ problem: problemOf(error) }))
    worker.once('exit', () => done({ problem: 'it could not be read' }))
  })
  await worker.terminate()
  if (answer.table !== undefined) return answer.table
  throw new Refused(`The workbook cannot be read: ${answer.problem ?? 'it has no sheet'}.`)
}
