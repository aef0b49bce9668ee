/// <reference lib="webworker" />
import { HERE_MS, hearServer, type Said } from './stream'

declare const self: SharedWorkerGlobalScope

/** A page that has not said for so long that it is there is gone; one in the background says so once a minute. */
const GONE_MS = 6 * HERE_MS

/** Pages, and when each was heard last. */
const pages = new Map<MessagePort, number>()
let isConnected = true

function tell(said: Said): void {
  if (said.kind === 'connected') isConnected = said.is
  for (const [port, heardMs] of pages)
    if (Date.now() - heardMs > GONE_MS) pages.delete(port)
    else port.postMessage(said)
}

self.addEventListener('connect', ({ ports: [port] }) => {
  if (port === undefined) return
  port.onmessage = ({ data }: MessageEvent<'here' | 'gone'>) => {
    if (data === 'gone') {
      pages.delete(port)
      return
    }
    if (!pages.has(port)) port.postMessage({ kind: 'connected', is: isConnected } satisfies Said)
    pages.set(port, Date.now())
  }
})

hearServer(tell)
