import { z } from 'zod'
import { ROLES } from '#core/accounts'
import { name } from '../platform/fields.ts'

const newAccount = z.object({
  name: name('a name'),
  email: z.email('Enter a mail address, like name@example.org'),
  password: z
    .string()
    .min(10, 'A password has at least 10 characters')
    .max(200, 'A password has at most 200 characters'),
})

export const firstAdministrator = newAccount.extend({ site: name('the name of the site') })

export const person = newAccount.extend({ role: z.enum(ROLES) })

export const roleChange = z.object({ id: z.string().min(1), role: z.enum(ROLES) })
