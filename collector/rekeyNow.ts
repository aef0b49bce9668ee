// Seals every secret of an installation that does not run anew, with a new key, then ends.
import { symmetricDecrypt, symmetricEncrypt } from 'better-auth/crypto'
import { z } from 'zod'
import { signingSecret } from '#db/accounts'
import { connect, openPool } from '#db/platform'
import { rekey } from '#db/sources'

const { RACK_DATABASE_URL, RACK_DATA } = z
  .object({ RACK_DATABASE_URL: z.url(), RACK_DATA: z.string().min(1) })
  .parse(process.env)
const db = connect(openPool(RACK_DATABASE_URL))
const { sealed, shut } = await rekey(db, RACK_DATA, async (text, from, to) =>
  symmetricEncrypt({
    key: signingSecret(to),
    data: await symmetricDecrypt({ key: signingSecret(from), data: text }),
  }),
)
console.log(
  `         ${sealed} secrets are sealed with a new key. Everybody signs in anew.${
    shut > 0 ? ` ${shut} could not be opened before and are as they were.` : ''
  }`,
)
await db.destroy()
