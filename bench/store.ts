import { report } from './measure.ts'
import { openBenchCluster } from './store/cluster.ts'
import { benchCodec } from './store/codec.ts'
import { benchIngest, benchWal } from './store/ingest.ts'
import { benchSealing } from './store/sealing.ts'
import { benchYear } from './store/year.ts'

const HELP = `npx tsx bench/store.ts [PART ...] [--short]

Measures the store of readings against rows, in one run on one machine. Parts: codec, ingest, wal, sealing, year.
The year takes about half an hour and 12 GB of disk; --short takes 30 days of 100 series instead.`

const words = process.argv.slice(2)
if (words.includes('--help')) {
  console.log(HELP)
  process.exit(0)
}
const isShort = words.includes('--short')
const asked = words.filter((word) => !word.startsWith('--'))
const wants = (part: string): boolean => asked.length === 0 || asked.includes(part)

if (wants('codec')) report('The codec', await benchCodec())
const bench = await openBenchCluster()
try {
  if (wants('ingest')) report('Ingest', await benchIngest(bench))
  if (wants('wal')) report('Write-ahead log', await benchWal(bench))
  if (wants('sealing')) report('Sealing', await benchSealing(bench))
  if (wants('year')) {
    const size = isShort
      ? { days: 30, series: 100, rowSeries: 100 }
      : { days: 365, series: 500, rowSeries: 100 }
    report('A year', await benchYear(bench, size))
  }
} finally {
  await bench.close()
}
