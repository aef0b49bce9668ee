import PostalMime from 'postal-mime'
import { SMTPServer } from 'smtp-server'
import type { FaultBoard } from '../model/faults.ts'

export interface SunkMail {
  readonly receivedAt: string
  readonly to: string[]
  readonly messageId: string
  /** Of each message in it, when there are many. */
  readonly ids: readonly string[]
  readonly subject: string
  readonly text: string
  readonly html: string
  /** Other fields of its head, by their names in small letters. */
  readonly head: Readonly<Record<string, string>>
}

/** A mail server on loopback (SMTP, RFC 5321) that keeps what it receives and passes nothing on. */
export async function startMailSink(
  port: number,
  faults?: FaultBoard,
  onMail?: (mail: SunkMail) => void,
  /** The answer to a recipient that is not taken: a code of RFC 5321 §4.2.1 and words. */
  refuses?: (address: string) => { readonly code: number; readonly words: string } | null,
): Promise<{ mails: readonly SunkMail[]; close(): Promise<void> }> {
  const mails: SunkMail[] = []
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS'],
    logger: false,
    onConnect(_, done) {
      done(faults?.has('refuse') ? new Error('the mail server is being serviced') : null)
    },
    onRcptTo({ address }, _, done) {
      const refusal = refuses?.(address) ?? null
      done(refusal === null ? null : Object.assign(new Error(refusal.words), { responseCode: refusal.code }))
    },
    onData(stream, session, done) {
      const chunks: Buffer[] = []
      stream.on('data', (chunk: Buffer) => chunks.push(chunk))
      stream.on('end', () => {
        const to = session.envelope.rcptTo.map((recipient) => recipient.address)
        PostalMime.parse(Buffer.concat(chunks))
          .then(({ messageId = '', subject = '', text = '', html = '', headers }) => {
            const receivedAt = new Date().toISOString()
            const listed = headers.find(({ key }) => key === 'restless-rack-messages')?.value
            const ids = listed?.split(/\s+/) ?? []
            const head = Object.fromEntries(headers.map(({ key, value }) => [key, value]))
            const mail = { receivedAt, to, messageId, ids, subject, text, html, head }
            mails.push(mail)
            onMail?.(mail)
            if (mails.length > 500) mails.shift()
            done(null)
          })
          .catch(done)
      })
    },
  })
  server.on('error', () => undefined)
  await new Promise<void>((resolve, reject) => {
    server.server.once('error', reject)
    server.listen(port, '127.0.0.1', () => resolve())
  })
  return { mails, close: () => new Promise((resolve) => server.close(() => resolve())) }
}
