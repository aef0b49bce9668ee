import type { Role } from '#db/accounts'

declare global {
  namespace App {
    interface Locals {
      user: { readonly id: string; readonly name: string; readonly email: string; readonly role: Role } | null
    }
    interface Error {
      message: string
      /** The database does not answer, and may again. */
      isAway?: boolean
    }
  }
}

export {}
