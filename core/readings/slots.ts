/**
 * One moment of one source: the value of every series of its layout, in slot order.
 * Eight bytes a slot, IEEE 754 binary64, little-endian. A missing value is NaN on disk and `null` outside.
 */
export function encodeSlots(values: readonly (number | null)[]): Uint8Array {
  const bytes = new Uint8Array(values.length * 8)
  const view = new DataView(bytes.buffer)
  values.forEach((value, slot) => view.setFloat64(slot * 8, value ?? Number.NaN, true))
  return bytes
}

/** @throws RangeError when the length is not a whole number of slots. */
export function decodeSlots(bytes: Uint8Array): (number | null)[] {
  if (bytes.byteLength % 8 !== 0)
    throw new RangeError(`${bytes.byteLength} bytes are not whole slots of 8 bytes`)
  return Array.from({ length: bytes.byteLength / 8 }, (_, slot) => readSlot(bytes, slot))
}

/** `null` when the slot is missing or lies beyond the end: an older layout had fewer slots. */
export function readSlot(bytes: Uint8Array, slot: number): number | null {
  if ((slot + 1) * 8 > bytes.byteLength) return null
  const value = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength).getFloat64(slot * 8, true)
  return Number.isNaN(value) ? null : value
}
