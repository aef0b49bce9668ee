import { sql } from 'kysely'
import { expect, test } from 'vitest'
import { listAccounts, listRecord } from '../accounts/index.ts'
import { listCredentials } from '../sources/index.ts'
import { emptyDatabase } from '../testing/database.ts'
import { migrateTo } from './migrate.ts'

test('an installation of before people were invited goes on: accounts, record, and credentials where they went', async () => {
  const { db, drop } = await emptyDatabase()
  try {
    await migrateTo(db, '019-trust')
    await sql`
      insert into "user" (id, name, email, "emailVerified", role) values ('a', 'Asta', 'asta@example.org', true, 'administer');
      insert into account (id, "accountId", "providerId", "userId", password) values ('1', 'a', 'credential', 'a', 'hash');
      insert into session (id, "expiresAt", token, "userId") values ('1', now() + interval '1 hour', 't', 'a');
      insert into change (who, what) values ('Asta', 'made room Hall');
      insert into credential (name, kind, sealed) values ('controllers', 'basic', 'x'), ('plain', 'bearer', 'x'),
        ('community', 'snmp-v2c', 'x'), ('unused', 'basic', 'x');
      insert into source (name, protocol, address, credential_id, interval_seconds)
        select 'source ' || address, 'redfish', address, credential.id, 60 from credential join (values
          ('controllers', 'https://Petrel-07.example:8443/redfish'), ('controllers', 'https://192.0.2.7'),
          ('controllers', 'https://[2001:db8::7]:443'), ('plain', 'http://192.0.2.9:9100/metrics'),
          ('community', '192.0.2.31:161'), ('community', 'harbour-a')
        ) as used (name, address) using (name)`.execute(db)
    await migrateTo(db, null)

    const kept = new Map(
      (await listCredentials(db)).map(({ name, hosts, inClear }) => [
        name,
        { hosts: [...hosts].sort(), inClear },
      ]),
    )
    expect(kept.get('controllers')).toEqual({
      hosts: ['192.0.2.7', '2001:db8::7', 'petrel-07.example'],
      inClear: null,
    })
    expect(kept.get('plain')?.hosts).toEqual(['192.0.2.9'])
    expect(kept.get('plain')?.inClear).not.toBeNull()
    expect(kept.get('community')).toEqual({ hosts: ['192.0.2.31', 'harbour-a'], inClear: null })
    expect(kept.get('unused')).toEqual({ hosts: [], inClear: null })

    expect(await listAccounts(db)).toMatchObject([
      { name: 'Asta', role: 'administer', isOff: false, waits: false, hasSecondFactor: false, sessions: 1 },
    ])
    const all = { words: [], kind: null, outcome: null, fromMs: null, toMs: null }
    expect(await listRecord(db, all, 10)).toMatchObject([
      { who: 'Asta', what: 'made room Hall', kind: 'change', outcome: 'done', accountId: null, rows: [] },
    ])
  } finally {
    await drop()
  }
})
