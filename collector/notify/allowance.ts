import { statSync } from 'node:fs'
import { reportCommands } from '#db/callouts'
import type { Db } from '#db/platform'
import { announce } from '#db/platform'
import { type AllowedCommand, commandWords, readCommands } from './commands.ts'
import { log } from '../platform/log.ts'

/** The commands that this machine allows now: its file is looked at again when it has changed. */
export class Allowance {
  list: readonly AllowedCommand[] = []
  #seen: string | null = null

  constructor(
    private readonly db: Db,
    private readonly path: string,
    private readonly collector: string,
  ) {}

  /** @returns whether the list is another one */
  async look(): Promise<boolean> {
    const stamp = stampOf(this.path)
    if (stamp === this.#seen) return false
    const before = JSON.stringify(this.list)
    const list = usable(this.path)
    await reportCommands(
      this.db,
      this.collector,
      list.map((command) => ({ name: command.name, words: commandWords(command) })),
    )
    await announce(this.db, { topic: 'callouts' })
    this.list = list
    this.#seen = stamp
    return JSON.stringify(list) !== before
  }
}

function stampOf(path: string): string {
  const stat = statSync(path, { throwIfNoEntry: false })
  return stat === undefined ? 'none' : `${stat.mtimeMs} ${stat.size} ${stat.ino}`
}

/** A list that cannot be read allows nothing, and says why. */
function usable(path: string): readonly AllowedCommand[] {
  try {
    return readCommands(path)
  } catch (error) {
    log.error({ reason: String(error) }, 'no command is allowed: the list of them cannot be used')
    return []
  }
}
