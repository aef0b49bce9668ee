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
}

/** A mail server on loopback (SMTP, RFC 5321) that keeps what it receives and passes nothing on. */
export async function startMailSink(
  port: number,
  faults?: FaultBoard,
  onMail?: (mail: SunkMail) => void,
): Promise<{ mails: readonly SunkMail[]; close(): Promise<void> }> {
  const mails: SunkMail[] = []
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS'],
    logger: false,
    onConnect(_, done) {
      done(faults?.has('refuse') ? new Error('the mail server is being serviced') : null)
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
            const mail = { receivedAt, to, messageId, ids, subject, text, html }
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
