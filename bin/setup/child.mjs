// Runs one of our long-lived programs so that it stops when the process that started it is gone.
import { pathToFileURL } from 'node:url'

process.once('disconnect', () => process.kill(process.pid, 'SIGTERM'))
process.channel?.unref()
await import(pathToFileURL(process.argv[2] ?? '').href)
