import { numberOf, type Objects, textOf, type Value } from './session.ts'

/** Reads a table (RFC 2578 §7.7) out of what a walk brought: rows by index, columns by number. */
export class Table {
  readonly indices: readonly string[]

  constructor(
    private readonly objects: Objects,
    private readonly entry: string,
  ) {
    const prefix = `${entry}.`
    const found = new Set<string>()
    for (const oid of objects.keys()) {
      if (!oid.startsWith(prefix)) continue
      const rest = oid.slice(prefix.length)
      const dot = rest.indexOf('.')
      if (dot > 0) found.add(rest.slice(dot + 1))
    }
    this.indices = [...found].sort((a, b) => a.localeCompare(b, 'en', { numeric: true }))
  }

  value(column: number, index: string): Value | undefined {
    return this.objects.get(`${this.entry}.${column}.${index}`)
  }

  number(column: number, index: string): number | null {
    return numberOf(this.value(column, index))
  }

  text(column: number, index: string): string {
    return textOf(this.value(column, index))
  }

  /** A counter exactly, in decimal; `null` where the value is none. */
  counter(column: number, index: string): string | null {
    const value = this.value(column, index)
    if (typeof value === 'bigint') return value.toString()
    return typeof value === 'number' && Number.isSafeInteger(value) && value >= 0 ? String(value) : null
  }
}

/** Octets of a hardware address in hex pairs (IEEE 802), or `null` when there are not six. */
export function macOf(value: Value | undefined): string | null {
  if (!Buffer.isBuffer(value) || value.length !== 6) return null
  return [...value].map((byte) => byte.toString(16).padStart(2, '0')).join(':')
}
