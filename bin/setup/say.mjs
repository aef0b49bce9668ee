// What the commands say while they work, and how they give up.

const startedMs = Date.now()

/** One line with the seconds since the start. @param {string} line */
export function say(line) {
  const seconds = ((Date.now() - startedMs) / 1000).toFixed(0).padStart(4)
  console.log(`${seconds} s  ${line}`)
}

/** A reason that a person can act on; shown without a stack. */
export class SetupError extends Error {}

/** Runs a command's main part; a `SetupError` is its sentence and exit status 1. @param {() => Promise<void>} main */
export async function command(main) {
  try {
    await main()
  } catch (error) {
    if (!(error instanceof SetupError)) throw error
    console.error(`\n${error.message}`)
    process.exit(1)
  }
}
