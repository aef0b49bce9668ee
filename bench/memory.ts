import { spawn } from 'node:child_process'
import { SPARING_HEAP } from '../bin/setup/children.mjs'
import { report } from './measure.ts'
import { openBenchCluster } from './store/cluster.ts'

// The collector's memory over a simulated week of 10,000 series, each read every 60 s: stored, judged and sealed.
const LIMIT_MIB = 300

const bench = await openBenchCluster()
try {
  const samples: { day: number; rssMiB: number }[] = []
  const child = spawn(
    process.execPath,
    [...SPARING_HEAP, '--import', 'tsx', 'bench/store/week.ts', bench.url, bench.scratch],
    {
      stdio: ['ignore', 'pipe', 'inherit'],
    },
  )
  let rest = ''
  child.stdout.on('data', (chunk: Buffer) => {
    const lines = (rest + chunk.toString()).split('\n')
    rest = lines.pop() ?? ''
    for (const line of lines) {
      const sample = JSON.parse(line) as { day: number; rssMiB: number }
      if (samples.at(-1)?.day !== sample.day)
        console.log(`  day ${sample.day}: ${sample.rssMiB.toFixed(0)} MiB`)
      samples.push(sample)
    }
  })
  const status = await new Promise((resolve) => child.once('exit', resolve))
  if (status !== 0) throw new Error(`the week ended with status ${status}`)
  const mean = (day: number): number => {
    const own = samples.filter((sample) => sample.day === day)
    return own.reduce((total, sample) => total + sample.rssMiB, 0) / own.length
  }
  const most = Math.max(...samples.map((sample) => sample.rssMiB))
  const growth = mean(6) / mean(2)
  report('The collector over a simulated week of 10,000 series', [
    {
      what: 'most memory in use (resident)',
      measured: `${most.toFixed(0)} MiB`,
      limit: `≤ ${LIMIT_MIB} MiB`,
      isMet: most <= LIMIT_MIB,
    },
    {
      what: 'flat: the mean of the last day against the third',
      measured: growth.toFixed(2),
      limit: '≤ 1.10',
      isMet: growth <= 1.1,
    },
  ])
} finally {
  await bench.close()
}
