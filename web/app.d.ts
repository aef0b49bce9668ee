import type { Present } from './server/platform/present.ts'
import type { SignedIn } from './server/platform/signedIn.ts'

declare global {
  namespace App {
    interface Locals {
      user: SignedIn | null
      /** Where the request came from; of a proxy that is believed, whom it says. */
      address: string
      /** Made by the first load that needs it (`presentOf`). */
      present?: Present
    }
    interface Error {
      message: string
      /** The database does not answer, and may again. */
      isAway?: boolean
    }
  }
}

export {}
