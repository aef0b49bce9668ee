import { type Db } from '#db/platform'
import { type OpenSource, openSources, pushedKeys, type SecretKey, tokenHash } from '#db/sources'
import { Again } from '../platform/again.ts'
import { log } from '../platform/log.ts'

/** The sources of the installation as they were last read: all of them, whoever asks them. */
export class KnownSources {
  #all: readonly OpenSource[] = []
  #tokens = new Map<string, number>()
  #senders: ReadonlyMap<string, number> = new Map()

  constructor(
    private readonly db: Db,
    private readonly key: SecretKey,
    private readonly onRead: (sources: readonly OpenSource[]) => void,
  ) {}

  get all(): readonly OpenSource[] {
    return this.#all
  }

  /** Reads them again. When that fails they stay as they were. */
  reload(): Promise<void> {
    return this.#reading.run()
  }

  readonly #reading = new Again(async () => {
    try {
      this.#all = await openSources(this.db, this.key)
      this.#tokens = new Map(
        this.#all.flatMap(({ id, tokenHash: hash }) => (hash === null ? [] : [[hash.toString('hex'), id]])),
      )
      this.#senders = await pushedKeys(this.db)
      this.onRead(this.#all)
    } catch (error) {
      log.warn({ reason: String(error) }, 'sources could not be read again')
    }
  })

  /** The source whose sender has this token. */
  byToken(token: string): number | null {
    return this.#tokens.get(tokenHash(token).toString('hex')) ?? null
  }

  /** The source that already brings gear of one of these keys. */
  byKeys(keys: readonly string[]): number | null {
    return keys.map((each) => this.#senders.get(each)).find((id) => id !== undefined) ?? null
  }
}
