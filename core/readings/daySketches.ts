import { ByteReader, ByteWriter, crc32 } from './bytes.ts'
import { ChunkError } from './chunk.ts'
import { Sketch } from './sketch.ts'

/** Sketches of several days, by day since the epoch, ascending. */
export type DaySketches = ReadonlyMap<number, Uint8Array>

const VERSION = 1

export function sketchBytes(values: Float64Array): Uint8Array {
  const writer = new ByteWriter()
  new Sketch().addAll(values).write(writer)
  return writer.bytes()
}

/** Version, number of days; a day's distance from the one before, length, sketch; CRC-32 of all. */
export function encodeSketches(sketches: DaySketches): Uint8Array {
  const writer = new ByteWriter()
  writer.byte(VERSION)
  writer.varint(sketches.size)
  let before = 0
  for (const [day, bytes] of [...sketches].sort(([a], [b]) => a - b)) {
    writer.varint(day - before)
    writer.varint(bytes.length)
    writer.append(bytes)
    before = day
  }
  writer.uint32(crc32(writer.view(0)))
  return writer.bytes()
}

/** @throws ChunkError when the bytes were altered */
export function decodeSketches(bytes: Uint8Array): Map<number, Uint8Array> {
  const end = bytes.length - 4
  if (end < 2 || crc32(bytes.subarray(0, end)) !== new ByteReader(bytes, end).uint32())
    throw new ChunkError('stored sketches do not fit their checksum')
  const reader = new ByteReader(bytes.subarray(0, end))
  if (reader.byte() !== VERSION) throw new ChunkError('stored sketches are of another version')
  const sketches = new Map<number, Uint8Array>()
  let day = 0
  for (let left = reader.varint(); left > 0; left -= 1) {
    day += reader.varint()
    sketches.set(day, reader.take(reader.varint()))
  }
  return sketches
}

/** Adds the days from `fromDay` up to, not with, `toDay` to a sketch. @throws ChunkError when the bytes were altered */
export function addDays(sketch: Sketch, bytes: Uint8Array, fromDay: number, toDay: number): void {
  for (const [day, written] of decodeSketches(bytes)) {
    if (day >= fromDay && day < toDay) sketch.addWritten(new ByteReader(written))
  }
}
