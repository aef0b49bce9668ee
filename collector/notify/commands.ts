import { spawn } from 'node:child_process'
import { accessSync, constants, existsSync, readFileSync } from 'node:fs'
import { isAbsolute } from 'node:path'
import { z } from 'zod'
import { errorWords } from '#protocols/reach'

/**
 * Commands that may follow an alert. The list is a file beside the database, so that only who administers the machine
 * can add to it, and not who administers the application. No shell reads a command, and its arguments are as they
 * stand; the alert comes as JSON on standard input.
 */
export const allowedCommands = z.array(
  z.object({
    name: z.string().trim().min(1).max(80),
    program: z.string().refine(isAbsolute, 'The program of a command is an absolute path'),
    arguments: z.array(z.string()).default([]),
    timeoutSeconds: z.number().min(1).max(600).default(30),
  }),
)
export type AllowedCommand = z.infer<typeof allowedCommands>[number]

/** @throws Error in a sentence when the file is there and is no such list */
export function readCommands(path: string): AllowedCommand[] {
  if (!existsSync(path)) return []
  let body: unknown
  try {
    body = JSON.parse(readFileSync(path, 'utf8'))
  } catch (error) {
    throw new Error(`${path} is not JSON: ${error instanceof Error ? error.message : String(error)}`, {
      cause: error,
    })
  }
  const parsed = allowedCommands.safeParse(body)
  if (parsed.success) return parsed.data
  const [issue] = parsed.error.issues
  throw new Error(`${path} is no list of commands: ${issue?.path.join('.') ?? ''} ${issue?.message ?? ''}`)
}

/** What would run, as it would be typed: for people, never for a shell. */
export const commandWords = ({ program, arguments: words }: AllowedCommand): string =>
  [program, ...words].map((word) => (/^[\w./:=@%+,-]+$/.test(word) ? word : JSON.stringify(word))).join(' ')

export interface CommandEnd {
  readonly isWell: boolean
  /** How it ended and the last of what it printed. */
  readonly words: string
}

/** What would run, and whether it could: nothing is run. */
export function dryRun(command: AllowedCommand): CommandEnd {
  const would = `${commandWords(command)} would run for at most ${command.timeoutSeconds} s, without a shell, with the alert on its standard input`
  try {
    accessSync(command.program, constants.X_OK)
    return { isWell: true, words: `${would}.` }
  } catch (error) {
    return {
      isWell: false,
      words: `${would}, and could not: ${command.program} cannot be run (${errorWords(error)}).`,
    }
  }
}

const MOST_KEPT = 4000

/** Runs a command to its end, or stops it when its time is over. Nothing of our own environment is passed on. */
export function runCommand(command: AllowedCommand, input: string): Promise<CommandEnd> {
  return new Promise((resolve) => {
    const child = spawn(command.program, command.arguments, {
      shell: false,
      env: { PATH: '/usr/local/bin:/usr/bin:/bin', LANG: 'C.UTF-8' },
      stdio: ['pipe', 'pipe', 'pipe'],
      // In a group of its own, so that what it started ends with it.
      detached: true,
    })
    let printed = ''
    let isLate = false
    const keep = (chunk: Buffer): void => {
      printed = (printed + chunk.toString('utf8')).slice(-MOST_KEPT)
    }
    child.stdout.on('data', keep)
    child.stderr.on('data', keep)
    child.stdin.on('error', () => undefined)
    child.stdin.end(input)
    const timer = setTimeout(() => {
      isLate = true
      killGroup(child.pid)
    }, command.timeoutSeconds * 1000)
    const end = (isWell: boolean, how: string): void => {
      clearTimeout(timer)
      const text = printed.trim()
      resolve({ isWell, words: text === '' ? how : `${how}: ${text}` })
    }
    child.once('error', (error) => end(false, `it could not be started: ${errorWords(error)}`))
    child.once('close', (code, signal) => {
      if (isLate) end(false, `stopped after ${command.timeoutSeconds} s`)
      else if (code === 0) end(true, 'ended well')
      else end(false, code === null ? `ended by ${signal ?? 'a signal'}` : `ended with ${code}`)
    })
  })
}

function killGroup(pid: number | undefined): void {
  if (pid === undefined) return
  try {
    process.kill(-pid, 'SIGKILL')
  } catch {
    // It ended by itself meanwhile.
  }
}
