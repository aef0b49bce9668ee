import type { SignedIn } from './server/platform/signedIn.ts'

declare global {
  namespace App {
    interface Locals {
      user: SignedIn | null
    }
    interface Error {
      message: string
      /** The database does not answer, and may again. */
      isAway?: boolean
    }
  }
}

export {}
