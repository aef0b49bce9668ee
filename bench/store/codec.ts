import { decodeChunk, encodeChunk } from '#core/readings'
import { deflate } from '../../db/readings/squeezer.ts'
import { spreadOf, timed, type Verdict } from '../measure.ts'
import { KIND_NAMES, mixedSeries } from './mix.ts'

const MINUTES = 43_200

/** Decoding thirty days of each kind, against JSON.parse of the same instants and values. */
export async function benchCodec(): Promise<Verdict[]> {
  const curves = mixedSeries(KIND_NAMES.length * 3).map((maker) => ({
    times: Float64Array.from({ length: MINUTES }, (_, minute) => Date.UTC(2026, 0, 1) + minute * 60_000),
    values: Float64Array.from({ length: MINUTES }, (_, minute) => maker(minute)),
  }))
  const encodeMs = await timed(1, () => curves.forEach((curve) => encodeChunk(curve, deflate)))
  const chunks = curves.map((curve) => encodeChunk(curve, deflate))
  const texts = curves.map(({ times, values }) =>
    JSON.stringify(Array.from(times, (atMs, index) => [atMs, values[index]])),
  )
  const ours = spreadOf(
    (await timed(9, () => chunks.forEach((chunk) => decodeChunk(chunk, deflate)))).slice(2),
  ).median
  const json = spreadOf(
    (await timed(5, () => texts.forEach((text) => JSON.parse(text) as unknown))).slice(1),
  ).median
  const readings = curves.length * MINUTES
  const bytes = chunks.reduce((total, chunk) => total + chunk.length, 0)
  return [
    {
      what: 'decoding, against JSON.parse of the same',
      measured: `${(json / ours).toFixed(1)} × (${(readings / ours / 1000).toFixed(0)} against ${(readings / json / 1000).toFixed(1)} million readings/s; encoding ${(readings / encodeMs[0]! / 1000).toFixed(2)}; ${(bytes / readings).toFixed(2)} B a reading)`,
      limit: '≥ 6 ×',
      isMet: json / ours >= 6,
    },
  ]
}
