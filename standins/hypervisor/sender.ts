import { gzipSync } from 'node:zlib'
import { request } from 'undici'
import { encodeExport, type ExportRequest } from '#protocols/otlp'
import type { Journal } from '../journal.ts'
import type { FaultBoard } from '../model/faults.ts'

const MOST_WAITING = 2000

export interface SenderOptions {
  readonly name: string
  readonly faults: FaultBoard
  readonly payload: (atMs: number) => ExportRequest
  /** What is off measures nothing, and pushes nothing. */
  readonly isOn?: (atMs: number) => boolean
  readonly url: string
  readonly token: string
  readonly intervalMs: number
  readonly journal: Journal
}

/** Measures at every interval and pushes. What is not acknowledged waits, and is sent again with its own time. */
export function startSender(options: SenderOptions): { close(): Promise<void> } {
  const waiting: { atMs: number; payload: ExportRequest }[] = []
  let isSending = false
  let closed = false

  async function deliver(): Promise<void> {
    if (isSending) return
    isSending = true
    try {
      while (!closed && waiting[0] !== undefined && !options.faults.has('silent')) {
        const { atMs, payload } = waiting[0]
        if (!(await push(options, payload))) return
        waiting.shift()
        options.journal.write({
          gear: options.name,
          atMs,
          what: 'accepted',
          value: firstValue(payload),
        })
      }
    } finally {
      isSending = false
    }
  }

  function measure(): void {
    const atMs = Math.floor(Date.now() / options.intervalMs) * options.intervalMs
    const isOn = options.isOn?.(Date.now()) ?? true
    if (isOn && !options.faults.has('silent')) waiting.push({ atMs, payload: options.payload(atMs) })
    if (waiting.length > MOST_WAITING) waiting.shift()
    void deliver()
  }

  const timer = setInterval(measure, options.intervalMs)
  measure()
  return {
    async close() {
      closed = true
      clearInterval(timer)
      while (isSending) await new Promise((resolve) => setTimeout(resolve, 20))
    },
  }
}

async function push({ faults, url, token }: SenderOptions, payload: ExportRequest): Promise<boolean> {
  const body = faults.has('garbage') ? Buffer.from('\u0007 not a message') : gzipSync(encodeExport(payload))
  try {
    const reply = await request(url, {
      method: 'POST',
      headers: {
        'content-type': 'application/x-protobuf',
        'content-encoding': faults.has('garbage') ? 'identity' : 'gzip',
        authorization: `Bearer ${faults.has('deny') ? 'a-wrong-token' : token}`,
      },
      body,
      headersTimeout: 10_000,
      bodyTimeout: 10_000,
    })
    await reply.body.dump()
    return reply.statusCode === 200
  } catch {
    return false
  }
}

const firstValue = (payload: ExportRequest): number =>
  payload.resourceMetrics[0]?.scopeMetrics[0]?.metrics[0]?.gauge?.dataPoints[0]?.asDouble ?? Number.NaN
