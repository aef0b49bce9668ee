import type { FarLinkFinding, Identity } from '#core/gear'
import { macOf, Table } from './objects.ts'
import { numberOf, type Objects, textOf, type Value } from './session.ts'

/** LLDP-MIB, IEEE 802.1AB-2005 §12 (1.0.8802.1.1.2). */
const LLDP = '1.0.8802.1.1.2.1'
const LOCAL_PORTS = `${LLDP}.3.7.1`
const REMOTE = `${LLDP}.4.1.1`
const OF_LOCAL = { idSubtype: 2, id: 3, descr: 4 }
const OF_REMOTE = { chassisSubtype: 4, chassisId: 5, portSubtype: 6, portId: 7, portDescr: 8, sysName: 9 }
export const NEIGHBOUR_WALKS = [
  ...Object.values(OF_LOCAL).map((column) => `${LOCAL_PORTS}.${column}`),
  ...Object.values(OF_REMOTE).map((column) => `${REMOTE}.${column}`),
]

/** LldpChassisIdSubtype and LldpPortIdSubtype. */
const CHASSIS_MAC = 4
const PORT_MAC = 3
const PORT_NAME = 5
const PORT_LOCAL = 7

const isMac = (value: Value | undefined): value is Buffer => Buffer.isBuffer(value) && value.length === 6

/**
 * Who is at the other end of each port, as the neighbours say of themselves.
 * @param ports keys of this agent's own ports, by name
 */
export function neighboursOf(
  objects: Objects,
  gear: string,
  ports: readonly { readonly key: string; readonly name: string }[],
): FarLinkFinding[] {
  const remote = new Table(objects, REMOTE)
  const local = new Table(objects, LOCAL_PORTS)
  return remote.indices.flatMap((index): FarLinkFinding[] => {
    // lldpRemTimeMark, lldpRemLocalPortNum, lldpRemIndex
    const number = index.split('.')[1]
    if (number === undefined) return []
    const names = [local.text(OF_LOCAL.id, number), local.text(OF_LOCAL.descr, number)]
    const own = names
      .map((name) => ports.find((port) => port.name === name))
      .find((port) => port !== undefined)
    const identities: Identity[] = []
    const chassis = remote.value(OF_REMOTE.chassisId, index)
    if (numberOf(remote.value(OF_REMOTE.chassisSubtype, index)) === CHASSIS_MAC && isMac(chassis))
      identities.push({ kind: 'mac', value: macOf(chassis)! })
    const port = remote.value(OF_REMOTE.portId, index)
    const subtype = numberOf(remote.value(OF_REMOTE.portSubtype, index))
    if (subtype === PORT_MAC && isMac(port)) identities.push({ kind: 'mac', value: macOf(port)! })
    const name = remote.text(OF_REMOTE.sysName, index) || null
    if (identities.length === 0 && name === null) return []
    const portName =
      subtype === PORT_NAME || subtype === PORT_LOCAL ? textOf(port) : remote.text(OF_REMOTE.portDescr, index)
    return [
      {
        kind: 'wired-to',
        gear,
        part: own?.key ?? null,
        isFrom: false,
        far: { identities, name, part: portName || null },
      },
    ]
  })
}
