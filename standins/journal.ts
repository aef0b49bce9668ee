import { appendFileSync } from 'node:fs'

/** What a stand-in gave away: the evidence against which stored readings are counted. */
export interface JournalEntry {
  readonly gear: string
  readonly atMs: number
  /** `answered`: a poll got its reply. `accepted`: a push was acknowledged by the far side. */
  readonly what: 'answered' | 'accepted'
  readonly value: number
}

export interface Journal {
  write(entry: JournalEntry): void
}

export const NO_JOURNAL: Journal = { write: () => undefined }

/** One JSON line an entry, written before the answer leaves. */
export function fileJournal(path: string): Journal {
  return { write: (entry) => appendFileSync(path, JSON.stringify(entry) + '\n') }
}
