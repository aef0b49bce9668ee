import { z } from 'zod'
import { startCollector } from './collector.ts'
import { log } from './log.ts'

const environment = z.object({
  RACK_DATABASE_URL: z.url(),
  RACK_DATA: z.string().min(1),
  RACK_COLLECTOR: z
    .string()
    .regex(/^[a-z0-9-]{1,40}$/)
    .default('collector-1'),
  RACK_RECEIVER_PORT: z.coerce.number().int().min(1).max(65535),
})

const { RACK_DATABASE_URL, RACK_DATA, RACK_COLLECTOR, RACK_RECEIVER_PORT } = environment.parse(process.env)
const collector = await startCollector({
  databaseUrl: RACK_DATABASE_URL,
  dataFolder: RACK_DATA,
  receiverPort: RACK_RECEIVER_PORT,
  name: RACK_COLLECTOR,
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
