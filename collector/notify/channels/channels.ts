import type { ChannelKind } from '#core/callouts'
import { callHook } from './hook.ts'
import { sendMail } from './mail.ts'
import type { Sending } from './sending.ts'
import { sendText } from './text.ts'

const SENDERS: Readonly<Record<ChannelKind, (sending: Sending) => Promise<string>>> = {
  mail: sendMail,
  text: sendText,
  hook: callHook,
  // Open pages are told by the database when the message is recorded as gone.
  screen: () => Promise.resolve('shown on every open page'),
}

/** Sends once. @returns what the far side answered @throws Error with its words, never with the secret in them */
export async function sendBy(kind: ChannelKind, sending: Sending): Promise<string> {
  const hidden = (text: string): string =>
    sending.secret === null || sending.secret.length < 4 ? text : text.replaceAll(sending.secret, '•••')
  try {
    return hidden(await SENDERS[kind](sending))
  } catch (error) {
    throw new Error(hidden(error instanceof Error ? error.message : String(error)), { cause: error })
  }
}
