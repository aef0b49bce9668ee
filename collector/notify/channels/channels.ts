import type { ChannelKind } from '#core/callouts'
import { callHook } from './hook.ts'
import { sendMail } from './mail.ts'
import { RefusedForGood, type Sending, type Sent } from './sending.ts'
import { sendText } from './text.ts'

const SENDERS: Readonly<Record<ChannelKind, (sending: Sending) => Promise<Sent>>> = {
  mail: sendMail,
  text: sendText,
  hook: async (sending) => ({ words: await callHook(sending), refused: [] }),
  // Open pages are told by the database when the message is recorded as gone.
  screen: () => Promise.resolve({ words: 'shown on every open page', refused: [] }),
}

/** Sends once. @returns what the far side answered @throws Error, or `RefusedForGood`, with its words, never with the secret in them */
export async function sendBy(kind: ChannelKind, sending: Sending): Promise<Sent> {
  const hidden = (text: string): string =>
    sending.secret === null || sending.secret.length < 4 ? text : text.replaceAll(sending.secret, '•••')
  try {
    const { words, refused } = await SENDERS[kind](sending)
    return { words: hidden(words), refused }
  } catch (error) {
    const words = hidden(error instanceof Error ? error.message : String(error))
    const Thrown = error instanceof RefusedForGood ? RefusedForGood : Error
    throw new Thrown(words, { cause: error })
  }
}
