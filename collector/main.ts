import { z } from 'zod'
import { sayInputWords } from '#protocols/driver'
import { startCollector } from './collector.ts'
import { log } from './platform/log.ts'

const port = z.coerce.number().int().min(1).max(65535)
const environment = z.object({
  RACK_DATABASE_URL: z.url(),
  RACK_DATA: z.string().min(1),
  RACK_COLLECTOR: z
    .string()
    .regex(/^[a-z0-9-]{1,40}$/)
    .default('collector-1'),
  RACK_RECEIVER_PORT: port,
  RACK_SYSLOG_PORT: port.optional(),
  RACK_TRAP_PORT: port.optional(),
  RACK_HEAR: z.union([z.ipv4(), z.ipv6()]).default('127.0.0.1'),
})

sayInputWords()
const given = environment.parse(process.env)
const collector = await startCollector({
  databaseUrl: given.RACK_DATABASE_URL,
  dataFolder: given.RACK_DATA,
  receiverPort: given.RACK_RECEIVER_PORT,
  syslogPort: given.RACK_SYSLOG_PORT ?? null,
  trapPort: given.RACK_TRAP_PORT ?? null,
  listenAddress: given.RACK_HEAR,
  name: given.RACK_COLLECTOR,
}).catch((error: unknown) => {
  log.fatal({ reason: String(error) }, 'the collector cannot start')
  process.exit(1)
})

let isStopping = false
for (const signal of ['SIGTERM', 'SIGINT'] as const) {
  process.on(signal, () => {
    if (isStopping) return
    isStopping = true
    void collector.close().then(() => process.exit(0))
  })
}
