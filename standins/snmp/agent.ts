import snmp from 'net-snmp'

export interface AgentAccess {
  readonly community: string
  readonly user?: { readonly username: string; readonly authPassword: string; readonly privPassword: string }
}

export type Cell = number | string | Buffer | bigint

export interface AgentScalar {
  /** Without the final 0. */
  readonly oid: string
  readonly type: snmp.ObjectType
  readonly value: (atMs: number) => number | string
}

export interface AgentTable {
  /** Of the entry. */
  readonly oid: string
  readonly columns: readonly { readonly number: number; readonly type: snmp.ObjectType }[]
  /** Column numbers of the index, which come first in each row. */
  readonly index: readonly number[]
  readonly rows: (atMs: number) => readonly (readonly Cell[])[]
}

export interface AgentObjects {
  readonly scalars: Readonly<Record<string, AgentScalar>>
  readonly tables: Readonly<Record<string, AgentTable>>
}

export interface AgentOptions extends AgentAccess, AgentObjects {
  readonly host?: string
  readonly port: number
}

/** What a walk of the agent would have brought at a time. */
export function objectsAt({ scalars, tables }: AgentObjects, atMs: number): Map<string, Cell> {
  const objects = new Map<string, Cell>()
  for (const { oid, value } of Object.values(scalars)) objects.set(`${oid}.0`, value(atMs))
  for (const { oid, columns, index, rows } of Object.values(tables))
    for (const row of rows(atMs)) {
      const key = row.slice(0, index.length).join('.')
      columns.forEach(({ number, type }, at) => {
        const cell = row[at]!
        const isWide = type === snmp.ObjectType.Counter64 && Buffer.isBuffer(cell)
        objects.set(`${oid}.${number}.${key}`, isWide ? cell.readBigUInt64BE() : cell)
      })
    }
  return objects
}

/** An agent on a port of its own: SNMP v2c with a community, v3 with a user (SHA-256, AES). It is as fresh as `refresh` makes it. */
export function startAgent(options: AgentOptions): { refresh(): void; close(): void } {
  const { scalars, tables, user } = options
  const agent = snmp.createAgent(
    {
      port: options.port,
      address: options.host ?? '127.0.0.1',
      disableAuthorization: false,
      transport: 'udp4',
    },
    () => undefined,
  )
  const authorizer = agent.getAuthorizer()
  authorizer.addCommunity(options.community)
  if (user !== undefined)
    authorizer.addUser({
      name: user.username,
      // What is signed and not encrypted is verified, and answered (RFC 3414 §3.2); at the higher level the library would
      // call its digest wrong.
      level: snmp.SecurityLevel.authNoPriv,
      authProtocol: snmp.AuthProtocols.sha256,
      authKey: user.authPassword,
      privProtocol: snmp.PrivProtocols.aes,
      privKey: user.privPassword,
    })
  const mib = agent.getMib()
  const maxAccess = snmp.MaxAccess['read-only']
  for (const [name, { oid, type: scalarType }] of Object.entries(scalars))
    mib.registerProvider({
      name,
      type: snmp.MibProviderType.Scalar,
      oid,
      scalarType,
      maxAccess,
    } as Parameters<typeof mib.registerProvider>[0])
  for (const [name, { oid, columns, index }] of Object.entries(tables))
    mib.registerProvider({
      name,
      type: snmp.MibProviderType.Table,
      oid,
      maxAccess: snmp.MaxAccess['not-accessible'],
      tableColumns: columns.map((column) => ({ ...column, name: `c${column.number}`, maxAccess })),
      tableIndex: index.map((columnNumber, at) => ({ columnNumber, type: columns[at]!.type })),
    } as unknown as Parameters<typeof mib.registerProvider>[0])
  const known = new Map<string, Map<string, readonly Cell[]>>()
  const refresh = (): void => {
    const atMs = Date.now()
    for (const [name, { value }] of Object.entries(scalars)) mib.setScalarValue(name, value(atMs))
    for (const [name, { rows, index, columns }] of Object.entries(tables)) {
      const before = known.get(name) ?? new Map<string, readonly Cell[]>()
      const now = new Map<string, readonly Cell[]>()
      for (const row of rows(atMs)) {
        const key = row.slice(0, index.length)
        const old = before.get(key.join('.'))
        if (old === undefined) mib.addTableRow(name, row as never[])
        else
          row.forEach((cell, at) => {
            if (at >= index.length && !same(old[at], cell))
              mib.setTableSingleCell(name, columns[at]!.number, key as never[], cell as never)
          })
        now.set(key.join('.'), row)
      }
      for (const [key, row] of before)
        if (!now.has(key)) mib.deleteTableRow(name, row.slice(0, index.length) as never[])
      known.set(name, now)
    }
  }
  refresh()
  return { refresh, close: () => agent.close() }
}

const same = (a: Cell | undefined, b: Cell): boolean =>
  Buffer.isBuffer(a) && Buffer.isBuffer(b) ? a.equals(b) : a === b
