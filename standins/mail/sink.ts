import PostalMime from 'postal-mime'
import { SMTPServer } from 'smtp-server'

export interface SunkMail {
  readonly receivedAt: string
  readonly to: string[]
  readonly messageId: string
  readonly subject: string
  readonly text: string
}

/** A mail server on loopback (SMTP, RFC 5321) that keeps what it receives and passes nothing on. */
export async function startMailSink(
  port: number,
): Promise<{ mails: readonly SunkMail[]; close(): Promise<void> }> {
  const mails: SunkMail[] = []
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS'],
    logger: false,
    onData(stream, session, done) {
      const chunks: Buffer[] = []
      stream.on('data', (chunk: Buffer) => chunks.push(chunk))
      stream.on('end', () => {
        const to = session.envelope.rcptTo.map((recipient) => recipient.address)
        PostalMime.parse(Buffer.concat(chunks))
          .then(({ messageId = '', subject = '', text = '' }) => {
            mails.push({ receivedAt: new Date().toISOString(), to, messageId, subject, text })
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
