import { crc32, deflateRawSync, inflateRawSync } from 'node:zlib'
import type { Squeezer } from '#core/readings'

/** DEFLATE (RFC 1951) by zlib. Output buffers are sized to fit: with the default, small pages cost twice the time. */
export const deflate: Squeezer = {
  squeeze: (bytes) => deflateRawSync(bytes, { windowBits: 13, chunkSize: bytes.length + 64 }),
  unsqueeze(bytes, size) {
    let plain: Uint8Array
    try {
      plain = inflateRawSync(bytes, { chunkSize: Math.max(64, size + 64), maxOutputLength: size + 64 })
    } catch (error) {
      throw new RangeError('squeezed bytes do not unpack', { cause: error })
    }
    if (plain.length !== size) throw new RangeError(`squeezed bytes unpack to ${plain.length}, not ${size}`)
    return plain
  },
  crc32: (bytes) => crc32(bytes),
}
