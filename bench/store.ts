import { parseArgs } from 'node:util'
import { report } from './measure.ts'
import { openBenchCluster } from './store/cluster.ts'
import { benchCodec } from './store/codec.ts'
import { benchIngest, benchWal } from './store/ingest.ts'
import { benchSealing } from './store/sealing.ts'
import { benchYear } from './store/year.ts'

const HELP = `npx tsx bench/store.ts [PART ...] [--days N] [--series N] [--kept FOLDER]

Measures the store of readings against rows, in one run on one machine. Parts: codec, ingest, wal, sealing, year.
The year (365 days of 500 series) takes about an hour and 30 GB of disk; --days and --series make it smaller.
With --kept the year stays in a folder, and the next run only asks.`

const { positionals: asked, values: given } = parseArgs({
  allowPositionals: true,
  options: {
    days: { type: 'string', default: '365' },
    series: { type: 'string', default: '500' },
    kept: { type: 'string' },
    help: { type: 'boolean', default: false },
  },
})
if (given.help) {
  console.log(HELP)
  process.exit(0)
}
const wants = (part: string): boolean => asked.length === 0 || asked.includes(part)

if (wants('codec')) report('The codec', await benchCodec())
const bench = await openBenchCluster(given.kept)
try {
  if (wants('ingest')) report('Ingest', await benchIngest(bench))
  if (wants('wal')) report('Write-ahead log', await benchWal(bench))
  if (wants('sealing')) report('Sealing', await benchSealing(bench))
  if (wants('year')) {
    // Sources have a hundred series each.
    const size = {
      days: Number(given.days),
      series: Math.ceil(Number(given.series) / 100) * 100,
    }
    report('A year', await benchYear(bench, size))
  }
} finally {
  await bench.close()
}
