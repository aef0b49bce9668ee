import type { SimPdu } from '../model/pdu.ts'
import { answered, count, members, OK } from './documents.ts'
import { serviceRoot } from './standard.ts'

const UNIT = '/redfish/v1/PowerEquipment/RackPDUs/1'

/** What the network card of a strip answers for a path at a time (DSP0268 PowerDistribution, Outlet, Circuit). */
export const pduDocument = (pdu: SimPdu, path: string, atMs: number): unknown =>
  answered((base) => documents(pdu, atMs)[base]?.(), path)

function documents(pdu: SimPdu, atMs: number): Record<string, () => object> {
  const { spec } = pdu
  const outlet = (number: number) => () => {
    const cord = spec.cords[number - 1]
    return {
      Id: String(number),
      Name: `Outlet ${number}`,
      PowerState: pdu.carries(number, atMs) ? 'On' : 'Off',
      PowerWatts: { Reading: pdu.outletWatts(number, atMs) },
      ElectricalConsumerNames: cord === undefined ? [] : [`${cord.gear} supply ${cord.supply}`],
      Status: OK,
    }
  }
  const phase = (number: number) => () => ({
    Id: `L${number}`,
    Name: `L${number}`,
    ElectricalSourceName: spec.feed,
    Voltage: { Reading: pdu.volts(atMs) },
    CurrentAmps: { Reading: pdu.phaseAmperes(number - 1, atMs) },
    Status: OK,
  })
  return {
    '/redfish/v1': () =>
      serviceRoot(`9c0d41f2-8a70-4b6e-9f01-0000000${String(spec.seed).padStart(5, '0')}`, {
        PowerEquipment: '/redfish/v1/PowerEquipment',
      }),
    '/redfish/v1/PowerEquipment': () => ({
      RackPDUs: { '@odata.id': '/redfish/v1/PowerEquipment/RackPDUs' },
    }),
    '/redfish/v1/PowerEquipment/RackPDUs': () => members([UNIT]),
    [UNIT]: () => ({
      Id: '1',
      Name: spec.name,
      Manufacturer: 'Voltessa',
      Model: spec.model,
      SerialNumber: spec.serial,
      FirmwareVersion: '4.1',
      Outlets: { '@odata.id': `${UNIT}/Outlets` },
      Mains: { '@odata.id': `${UNIT}/Mains` },
      Metrics: { '@odata.id': `${UNIT}/Metrics` },
      Status: pdu.faults.has('trip') ? { State: 'Enabled', Health: 'Critical' } : OK,
    }),
    [`${UNIT}/Metrics`]: () => ({ Id: 'Metrics', PowerWatts: { Reading: pdu.watts(atMs) } }),
    [`${UNIT}/Outlets`]: () => members(count(spec.outlets).map((number) => `${UNIT}/Outlets/${number}`)),
    [`${UNIT}/Mains`]: () => members([1, 2, 3].map((number) => `${UNIT}/Mains/L${number}`)),
    ...Object.fromEntries(count(spec.outlets).map((number) => [`${UNIT}/Outlets/${number}`, outlet(number)])),
    ...Object.fromEntries([1, 2, 3].map((number) => [`${UNIT}/Mains/L${number}`, phase(number)])),
  }
}
