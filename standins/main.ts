import { join } from 'node:path'
import { z } from 'zod'
import { portsFrom } from './site/index.ts'
import { siteBirth, startStandins } from './standins.ts'

const environment = z.object({
  RACK_DATA: z.string().min(1),
  RACK_PORT: z.coerce.number().int(),
  RACK_RECEIVER_PORT: z.coerce.number().int(),
  RACK_DEMO_INTERVAL_MS: z.coerce.number().int().default(10_000),
  RACK_STANDIN_JOURNAL: z.string().optional(),
  RACK_STANDIN_SENDERS: z.string().optional(),
})
const given = environment.parse(process.env)
const standins = await startStandins({
  folder: join(given.RACK_DATA, 'standins'),
  ports: portsFrom(given.RACK_PORT),
  otlpUrl: `http://127.0.0.1:${given.RACK_RECEIVER_PORT}/v1/metrics`,
  intervalMs: given.RACK_DEMO_INTERVAL_MS,
  journalPath: given.RACK_STANDIN_JOURNAL ?? null,
  startMs: siteBirth(join(given.RACK_DATA, 'standins'), Date.now()),
  ...(given.RACK_STANDIN_SENDERS === undefined ? {} : { senders: given.RACK_STANDIN_SENDERS.split(',') }),
})

let isStopping = false
const stop = (): void => {
  if (isStopping) return
  isStopping = true
  void standins.close().then(() => process.exit(0))
}
process.once('SIGTERM', stop)
process.once('SIGINT', stop)
process.once('disconnect', stop)
