import { parseArgs } from 'node:util'
import { z } from 'zod'
import { NIGHTS, playLive } from './nights/index.ts'
import { portsFrom } from './site/index.ts'

const HELP = `bin/standin list                              gear, the faults each can have, and those it has now
bin/standin cause GEAR FAULT [PART] [--pace N]  cause a fault; a pace of 60 runs an hour in a minute
bin/standin mend GEAR [FAULT] [PART]            mend one fault, or all of a gear
bin/standin nights                             the nights that can be played
bin/standin night NAME [--pace N]              play one: faults in their order, each at its time
bin/standin mails                               what the mail server has received; texts, hooks: what those have

  --port N   the web port of the demo (8460)

For example: bin/standin cause petrel-07 stop-fan 3
             bin/standin cause harbour-A lose-mains --pace 5
             bin/standin cause petrel-07 fill-store gannet-02 --pace 20`

const fault = z.object({ name: z.string(), part: z.string().nullable(), pace: z.number() })
const listing = z.object({
  gear: z.array(z.object({ name: z.string(), possible: z.array(z.string()), now: z.array(fault) })),
})
const mails = z.object({
  mails: z.array(
    z.object({ receivedAt: z.string(), to: z.array(z.string()), subject: z.string(), text: z.string() }),
  ),
})

const { positionals, values } = parseArgs({
  allowPositionals: true,
  options: {
    port: { type: 'string', default: '8460' },
    pace: { type: 'string', default: '1' },
    help: { type: 'boolean' },
  },
})
const [verb, gear, name, part = null] = positionals
const control = `http://127.0.0.1:${portsFrom(Number(values.port)).control}`

try {
  if (values.help || verb === undefined) console.log(HELP)
  else if (verb === 'list') printGear(listing.parse(await ask('GET', '/')))
  else if (verb === 'texts' || verb === 'hooks')
    console.log(JSON.stringify(await ask('GET', `/${verb}`), null, 2))
  else if (verb === 'nights')
    for (const { key, words, lastsMin } of NIGHTS)
      console.log(`${key.padEnd(16)} ${words}; ${lastsMin} min of life`)
  else if (verb === 'night') await playNight(gear ?? '')
  else if (verb === 'mails') printMails(mails.parse(await ask('GET', '/mails')))
  else if ((verb === 'cause' || verb === 'mend') && gear !== undefined) {
    await ask('POST', `/${verb}`, { gear, fault: name, part, pace: Number(values.pace) })
    console.log(
      verb === 'cause' ? `${gear}: ${name}${part === null ? '' : ` ${part}`} caused.` : `${gear}: mended.`,
    )
  } else throw new Error(`“${positionals.join(' ')}” is not understood.\n\n${HELP}`)
} catch (error) {
  console.error(error instanceof Error ? error.message : error)
  process.exitCode = 1
}

async function playNight(key: string): Promise<void> {
  const night = NIGHTS.find((each) => each.key === key)
  if (night === undefined)
    throw new Error(`There is no night “${key}”. There are: ${NIGHTS.map((each) => each.key).join(', ')}.`)
  const pace = Number(values.pace)
  if (!(pace >= 1 && pace <= 100))
    throw new Error(`A pace of ${values.pace} cannot be played; choose 1 to 100.`)
  console.log(`${night.words}: ${Math.ceil(night.lastsMin / pace)} min`)
  await playLive(night, pace, (name, body) => ask('POST', `/${name}`, body), console.log)
}

async function ask(method: string, path: string, body?: unknown): Promise<unknown> {
  const reply = await fetch(control + path, {
    method,
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  }).catch(() => {
    throw new Error(`No stand-ins answer at ${control}. Start the demo with bin/start first.`)
  })
  const answer: unknown = await reply.json()
  if (!reply.ok) throw new Error(z.object({ error: z.string() }).parse(answer).error)
  return answer
}

function printGear({ gear: list }: z.infer<typeof listing>): void {
  for (const each of list) {
    const now = each.now.map((one) => `${one.name}${one.part === null ? '' : ` ${one.part}`}`).join(', ')
    console.log(
      `${each.name.padEnd(12)} ${now === '' ? 'well' : `now: ${now}`}\n${' '.repeat(13)}can: ${each.possible.join(', ')}`,
    )
  }
}

function printMails({ mails: list }: z.infer<typeof mails>): void {
  if (list.length === 0) console.log('No mail has come in.')
  for (const mail of list)
    console.log(`--- ${mail.receivedAt} to ${mail.to.join(', ')}\n${mail.subject}\n\n${mail.text}`)
}
