// Everything that CI runs, step by step. The last line is “N passed, N failed”.
import { mkdtempSync, readFileSync, rmSync, chmodSync } from 'node:fs'
import { setPriority, tmpdir } from 'node:os'
import { join } from 'node:path'
import { spawn } from 'node:child_process'
import { buildPrograms, buildWeb, checkNode, HOME, installDebian, installPackages, run } from './packages.mjs'
import { freePorts, installPostgres } from './postgres.mjs'
import { command, say } from './say.mjs'

const HELP = `bin/test [--long] [STEP ...]

Runs everything that CI runs, or only the steps named: types, lint, boundaries, unit, integration, browser.
Installs first what is missing: npm packages, Debian's PostgreSQL and Chromium (headless).
--long   the tests that kill, storm and send what is hostile at their full size (CI runs them smaller)

The last line is “N passed, N failed”.`

/**
 * What only reads the sources, and what waits for most of its time, stand side by side: each of these goes through its steps.
 * The browser comes after them, alone.
 */
const BESIDE = [
  ['unit', 'integration'],
  ['boundaries', 'types', 'lint'],
]
const STEPS = [...BESIDE.flat(), 'browser']

/** @typedef {{ passed: number, failed: number }} Count */

/** What failed, to be named at the end. @type {string[]} */
const remarks = []
/** How long each test took. @type {{ ms: number, name: string }[]} */
const durations = []
const MOST_SLOW = 10
/** The niceness of what has no time to keep: it gives way to what runs beside it. */
const MODEST = 10

const PEERS = /** @type {const} */ ([
  ['snmpd', '/usr/sbin/snmpd'],
  ['snmp', '/usr/bin/snmptrap'],
  ['bsdutils', '/usr/bin/logger'],
  ['iputils-ping', '/usr/bin/ping'],
  ['oathtool', '/usr/bin/oathtool'],
  ['openssl', '/usr/bin/openssl'],
  ['python3-sushy', '/usr/lib/python3/dist-packages/sushy'],
])

await command(async () => {
  const words = process.argv.slice(2)
  const asked = words.filter((word) => word !== '--long')
  if (words.includes('--long')) process.env['RACK_TEST_LONG'] = 'yes'
  if (asked.includes('--help')) return console.log(HELP)
  const unknown = asked.find((word) => !STEPS.includes(word))
  if (unknown !== undefined) {
    console.error(`“${unknown}” is no step. Known are: ${STEPS.join(', ')}.`)
    process.exit(2)
  }
  checkNode()
  installPackages()
  installPostgres()
  if (asked.length === 0 || asked.includes('integration') || asked.includes('browser')) installPeers()
  if (asked.length === 0 || asked.includes('browser')) {
    const isThere = () => run(['test', '-x', '/usr/bin/chromium-headless-shell']).status === 0
    installDebian(['chromium-headless-shell'], isThere)
    // The web application that the browser looks at is built once, before anything is timed.
    buildWeb()
    buildPrograms()
  }
  const scratch = mkdtempSync(join(tmpdir(), 'rack-run-'))
  // PostgreSQL's own user must reach its data in there.
  chmodSync(scratch, 0o755)
  const total = { passed: 0, failed: 0 }
  try {
    const run = async (/** @type {string} */ step) => {
      say(step)
      const count = await doStep(step, scratch)
      say(`${step}: ${count.passed} passed, ${count.failed} failed`)
      total.passed += count.passed
      total.failed += count.failed
    }
    const isAsked = (/** @type {string} */ step) => asked.length === 0 || asked.includes(step)
    const inOrder = async (/** @type {string[]} */ steps) => {
      for (const step of steps.filter(isAsked)) await run(step)
    }
    await Promise.all(BESIDE.map(inOrder))
    await inOrder(['browser'])
  } finally {
    rmSync(scratch, { recursive: true, force: true })
  }
  printSlowest()
  for (const remark of remarks) console.log(remark)
  console.log(`${total.passed} passed, ${total.failed} failed`)
  process.exit(total.failed === 0 && total.passed > 0 ? 0 : 1)
})

/** Peers that were not written here, to be held against. Tests pass over what cannot be had. */
function installPeers() {
  for (const [name, path] of PEERS) {
    try {
      installDebian([name], () => run(['test', '-x', path]).status === 0)
    } catch (error) {
      say(`tests with Debian's ${name} are passed over: ${error instanceof Error ? error.message : error}`)
    }
  }
}

/** @param {string} step @param {string} scratch @returns {Promise<Count>} */
async function doStep(step, scratch) {
  switch (step) {
    case 'types':
      return whole(['npm', 'run', '--silent', 'check'])
    case 'lint':
      return whole(['npm', 'run', '--silent', 'lint'])
    case 'boundaries':
      return whole(['npm', 'run', '--silent', 'boundaries'])
    case 'integration': {
      // What kills processes waits for most of its time: it runs beside the others.
      const counts = await Promise.all(
        ['integration', 'killed'].map((project) => vitest(project, join(scratch, `${project}.json`))),
      )
      return counts.reduce((all, each) => ({
        passed: all.passed + each.passed,
        failed: all.failed + each.failed,
      }))
    }
    case 'browser':
      return browser(scratch)
    default:
      return vitest(step, join(scratch, `${step}.json`))
  }
}

/** A check that passes or fails as a whole. @param {string[]} words @returns {Promise<Count>} */
async function whole(words) {
  const isWell = (await show(words, {}, MODEST)) === 0
  if (!isWell) remarks.push(`failed: ${words.join(' ')}`)
  return { passed: isWell ? 1 : 0, failed: isWell ? 0 : 1 }
}

/** @param {string} project @param {string} report @returns {Promise<Count>} */
async function vitest(project, report) {
  const words = ['npx', 'vitest', 'run', '--project', project]
  const status = await show([
    ...words,
    '--reporter=default',
    '--reporter=json',
    `--outputFile.json=${report}`,
  ])
  return counted(status, () => {
    const { numPassedTests, numFailedTests, numFailedTestSuites, testResults } = JSON.parse(
      readFileSync(report, 'utf8'),
    )
    for (const { name, status, message, assertionResults } of testResults) {
      const file = name.slice(HOME.length + 1)
      if (status === 'failed' && assertionResults.length === 0) remarks.push(`failed: ${file}: ${message}`)
      for (const { status: outcome, fullName, failureMessages, duration } of assertionResults) {
        const first = failureMessages?.[0]?.split('\n')[0]
        if (outcome === 'failed') remarks.push(`failed: ${file}: ${fullName}: ${first}`)
        durations.push({ ms: duration ?? 0, name: `${file}: ${fullName}` })
      }
    }
    return { passed: numPassedTests, failed: Math.max(numFailedTests, numFailedTestSuites > 0 ? 1 : 0) }
  })
}

/** @param {string} scratch @returns {Promise<Count>} */
async function browser(scratch) {
  const report = join(scratch, 'browser.json')
  const status = await show(['npx', 'playwright', 'test', '--reporter=list,json'], {
    PLAYWRIGHT_JSON_OUTPUT_NAME: report,
    PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD: '1',
    RACK_E2E_DATA: join(scratch, 'data'),
    RACK_E2E_PORT: String(await freePorts(86)),
  })
  return counted(status, () => {
    const { stats, suites } = JSON.parse(readFileSync(report, 'utf8'))
    remarks.push(...suites.flatMap(specRemarks))
    const { expected, unexpected } = stats
    return { passed: expected, failed: unexpected }
  })
}

/**
 * @typedef {{ specs?: { title: string, file: string, tests: { status: string, results: { duration: number }[] }[] }[], suites?: Suite[] }} Suite
 * @param {Suite} suite @returns {string[]}
 */
function specRemarks({ specs = [], suites = [] }) {
  return [
    ...specs.flatMap(({ title, file, tests }) =>
      tests.flatMap(({ status, results }) => {
        durations.push({
          ms: results.reduce((sum, { duration }) => sum + duration, 0),
          name: `${file}: ${title}`,
        })
        return status === 'unexpected' ? [`failed: ${file}: ${title}`] : []
      }),
    ),
    ...suites.flatMap(specRemarks),
  ]
}

/** The slowest tests, by the second. */
function printSlowest() {
  if (durations.length < MOST_SLOW) return
  console.log(`\nThe ${MOST_SLOW} slowest tests:`)
  for (const { ms, name } of durations.sort((a, b) => b.ms - a.ms).slice(0, MOST_SLOW))
    console.log(`${(ms / 1000).toFixed(1).padStart(7)} s  ${name}`)
}

/** A run that died without a report, or failed without a failed test, is a failure. @param {number} status @param {() => Count} read */
function counted(status, read) {
  try {
    const count = read()
    return status === 0 || count.failed > 0 ? count : { ...count, failed: 1 }
  } catch {
    return { passed: 0, failed: 1 }
  }
}

/**
 * Runs a program and lets it speak.
 * @param {string[]} words @param {Record<string, string>} [env] @param {number} [niceness] @returns {Promise<number>}
 */
function show([program = '', ...rest], env = {}, niceness = 0) {
  return new Promise((resolve) => {
    const child = spawn(program, rest, {
      cwd: HOME,
      env: { ...process.env, ...env },
      stdio: ['ignore', 'inherit', 'inherit'],
    })
    if (niceness > 0 && child.pid !== undefined) setPriority(child.pid, niceness)
    child.once('error', () => resolve(1))
    child.once('exit', (status) => resolve(status ?? 1))
  })
}
