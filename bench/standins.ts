import { readFileSync } from 'node:fs'
import { execFileSync } from 'node:child_process'
import { openDemo } from './installation.ts'
import { report } from './measure.ts'

// What the stand-ins of the whole site take of one core while the collector asks them at the demo's own pace.
const SECONDS = 120
const SETTLING_SECONDS = 60

const demo = await openDemo({ RACK_DEMO_DAYS: '2' })
try {
  const pid = execFileSync('pgrep', ['-nf', 'standins/main.ts'], { encoding: 'utf8' }).trim()
  const ticks = Number(execFileSync('getconf', ['CLK_TCK'], { encoding: 'utf8' }))
  const usedSeconds = (): number => {
    // Fields 14 and 15 of proc(5) stat, counted after the name in parentheses.
    const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1]!.split(' ')
    return (Number(fields[11]) + Number(fields[12])) / ticks
  }
  await new Promise((resolve) => setTimeout(resolve, SETTLING_SECONDS * 1000))
  const [before, startedMs] = [usedSeconds(), performance.now()]
  await new Promise((resolve) => setTimeout(resolve, SECONDS * 1000))
  const share = (usedSeconds() - before) / ((performance.now() - startedMs) / 1000)
  report('The stand-ins of the whole site', [
    {
      what: `one process, over ${SECONDS} s`,
      measured: `${(share * 100).toFixed(1)} % of one core`,
      limit: '< 25 %',
      isMet: share < 0.25,
    },
  ])
} finally {
  await demo.close()
}
