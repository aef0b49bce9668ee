import { existsSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { buildPrograms, checkNode, HOME, installPackages } from './packages.mjs'
import { installPostgres, openCluster } from './postgres.mjs'
import { refuseSecondRun, runToEnd } from './running.mjs'
import { command, say, SetupError } from './say.mjs'
import { ownUser } from './user.mjs'

const HELP = `bin/rack rekey [--no-demo] [--port N]

Does something with an installation that does not run.

  rekey       seals every secret that is kept anew, with a new key (data/…/secret.key). It may be cut short at any time:
              all of it is done, or nothing. Everybody signs in anew afterwards. Keep the key of before with the back-ups
              of before: what is sealed in them opens with no other
  --no-demo   of the real installation; without it, of the demo
  --port N    as given to bin/start, 8460 if not given
  --help      this text`

await command(async () => {
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: {
      'no-demo': { type: 'boolean', default: false },
      port: { type: 'string', default: process.env['RACK_PORT'] ?? '8460' },
      help: { type: 'boolean', default: false },
    },
  })
  if (values.help || positionals.length === 0) return console.log(HELP)
  if (positionals.length > 1 || positionals[0] !== 'rekey')
    throw new SetupError(`“${positionals.join(' ')}” is nothing that it does. Known is: rekey.`)
  const base = Number(values.port)
  if (!Number.isInteger(base) || base < 1024 || base > 65_400)
    throw new SetupError(`--port takes a number from 1024 to 65400; “${values.port}” is none.`)
  const folder = join(process.env['RACK_DATA'] ?? join(HOME, 'data'), values['no-demo'] ? 'real' : 'demo')
  const lock = join(folder, 'running')
  if (!existsSync(join(folder, 'postgres'))) throw new SetupError(`There is no installation in ${folder}.`)
  checkNode()
  refuseSecondRun(lock)
  writeFileSync(lock, String(process.pid))
  try {
    installPackages()
    buildPrograms()
    installPostgres()
    say('starting PostgreSQL')
    const cluster = await openCluster({ folder, port: base + 1 })
    const env = { RACK_DATABASE_URL: cluster.url, RACK_DATA: folder }
    try {
      const passwords = { RACK_ROLE_PASSWORDS: JSON.stringify(cluster.roles) }
      runToEnd(
        'programs/migrateNow.mjs',
        { ...env, ...passwords },
        'The database could not be brought up to date',
      )
      runToEnd('programs/rekeyNow.mjs', env, 'The secrets could not be sealed anew; they are as they were')
      ownUser(folder)
    } finally {
      cluster.stop()
    }
  } finally {
    rmSync(lock, { force: true })
  }
})
