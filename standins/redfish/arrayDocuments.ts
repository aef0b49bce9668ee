import { POOL_BYTES, type SimArray } from '../model/array.ts'
import { answered, count, enclosureThermal, members, OK } from './documents.ts'
import { serviceRoot } from './standard.ts'

const SYSTEM = '/redfish/v1/Storage/1'
const BOX = '/redfish/v1/Chassis/1'
const CRITICAL = { State: 'Enabled', Health: 'Critical' }

/** Of a group with two drives of parity (RAID 6) two may fail; with a third one its data is gone. */
const PARITY = 2
const degraded = (failed: number) =>
  failed === 0 ? OK : failed <= PARITY ? { State: 'Enabled', Health: 'Warning' } : CRITICAL

/** What an array answers for a path at a time (DSP0268 Storage at the service root, StoragePool, Drive). */
export const arrayDocument = (array: SimArray, path: string, atMs: number): unknown =>
  answered((base) => documents(array, atMs)[base]?.(), path)

type Documents = Record<string, () => object>

const documents = (array: SimArray, atMs: number): Documents => ({
  '/redfish/v1': () =>
    serviceRoot(`5b1e77c0-1c4f-4a30-8d01-0000000${String(array.spec.seed).padStart(5, '0')}`, {
      Storage: '/redfish/v1/Storage',
      Chassis: '/redfish/v1/Chassis',
    }),
  ...storageDocuments(array, atMs),
  ...boxDocuments(array, atMs),
})

/** What the drives of a group that still work say of it (DSP0268 Drive, StatusIndicator), by how many have failed. */
const groupIndicator = (failed: number): string =>
  failed > PARITY ? 'InAFailedArray' : failed === PARITY ? 'InACriticalArray' : 'OK'

function metricsDocument(array: SimArray, bay: number, fails: boolean, atMs: number) {
  const { writtenBytes, readBytes, powerOnHours } = array.drive(bay, atMs)
  return {
    WriteIOKiBytes: Math.round(writtenBytes / 1024),
    ReadIOKiBytes: Math.round(readBytes / 1024),
    PowerOnHours: powerOnHours,
    BadBlockCount: fails ? 31 : 0,
    UncorrectableIOReadErrorCount: fails ? 2 : 0,
    UncorrectableIOWriteErrorCount: 0,
  }
}

function storageDocuments(array: SimArray, atMs: number): Documents {
  const { spec } = array
  const bays = spec.driveLifePercent.map((_, bay) => bay)
  const failed = bays.filter((bay) => array.faults.has('fail-drive', String(bay)))
  const drive = (bay: number) => () => {
    const fails = failed.includes(bay)
    const { serial, model, firmware, capacityBytes } = array.drive(bay, atMs)
    return {
      Id: String(bay),
      Name: `d${String(bay).padStart(2, '0')}`,
      Model: model,
      SerialNumber: serial,
      PartNumber: array.drivePartNumber(bay),
      Revision: firmware,
      CapacityBytes: capacityBytes,
      MediaType: 'SSD',
      Protocol: 'SAS',
      FailurePredicted: fails,
      PredictedMediaLifeLeftPercent: array.driveLifePercent(bay, atMs),
      HotspareType: 'None',
      StatusIndicator: fails ? 'Fail' : groupIndicator(failed.length),
      Metrics: { '@odata.id': `${SYSTEM}/Drives/${bay}/Metrics` },
      Links: { StoragePools: [{ '@odata.id': `${SYSTEM}/StoragePools/pool-1` }] },
      Status: fails ? CRITICAL : OK,
    }
  }
  const metrics = (bay: number) => () => metricsDocument(array, bay, failed.includes(bay), atMs)
  const controller = (id: string) => () => ({
    Id: id,
    Name: `Controller ${id}`,
    Model: 'Aldermoor C2',
    SerialNumber: `AC-${spec.serial.slice(-4)}${id}`,
    FirmwareVersion: '7.2.4',
    Status: array.faults.has('fail-controller', id) ? CRITICAL : OK,
  })
  return {
    '/redfish/v1/Storage': () => members([SYSTEM]),
    [SYSTEM]: () => ({
      Id: '1',
      Name: spec.name,
      Manufacturer: 'Aldermoor',
      Model: spec.model,
      SerialNumber: spec.serial,
      Drives: bays.map((bay) => ({ '@odata.id': `${SYSTEM}/Drives/${bay}` })),
      Controllers: { '@odata.id': `${SYSTEM}/Controllers` },
      StoragePools: { '@odata.id': `${SYSTEM}/StoragePools` },
      Volumes: { '@odata.id': `${SYSTEM}/Volumes` },
      Links: { Enclosures: [{ '@odata.id': BOX }] },
      Status: degraded(failed.length),
    }),
    ...Object.fromEntries(
      bays.flatMap((bay) => [
        [`${SYSTEM}/Drives/${bay}`, drive(bay)],
        [`${SYSTEM}/Drives/${bay}/Metrics`, metrics(bay)],
      ]),
    ),
    [`${SYSTEM}/Controllers`]: () => members(['A', 'B'].map((id) => `${SYSTEM}/Controllers/${id}`)),
    [`${SYSTEM}/Controllers/A`]: controller('A'),
    [`${SYSTEM}/Controllers/B`]: controller('B'),
    ...volumeDocuments(array, { failed: failed.length, atMs }),
    [`${SYSTEM}/StoragePools`]: () => members([`${SYSTEM}/StoragePools/pool-1`]),
    [`${SYSTEM}/StoragePools/pool-1`]: () => ({
      Id: 'pool-1',
      Name: 'pool-1',
      SupportedRAIDTypes: ['RAID6'],
      Capacity: {
        Data: {
          AllocatedBytes: POOL_BYTES,
          ConsumedBytes: Math.round(array.ties.usedBytes(atMs)),
          ProvisionedBytes: array.promisedBytes(atMs),
        },
      },
      Status: degraded(failed.length),
    }),
  }
}

const volumeDocuments = (
  array: SimArray,
  { failed, atMs }: { readonly failed: number; readonly atMs: number },
): Documents => ({
  [`${SYSTEM}/Volumes`]: () => members(array.spec.stores.map((name) => `${SYSTEM}/Volumes/${name}`)),
  ...Object.fromEntries(
    array.spec.stores.map((name) => [
      `${SYSTEM}/Volumes/${name}`,
      () => {
        const { capacityBytes, consumedBytes } = array.volume(name, atMs)
        return {
          Id: name,
          Name: name,
          RAIDType: 'RAID6',
          CapacityBytes: capacityBytes,
          Capacity: {
            IsThinProvisioned: true,
            Data: { ProvisionedBytes: capacityBytes, ConsumedBytes: consumedBytes },
          },
          // What hosts see of it works as long as its group has its data.
          Status: failed > PARITY ? CRITICAL : OK,
        }
      },
    ]),
  ),
})

function boxDocuments(array: SimArray, atMs: number): Documents {
  const { spec } = array
  return {
    '/redfish/v1/Chassis': () => members([BOX]),
    [BOX]: () => ({
      ChassisType: 'StorageEnclosure',
      Manufacturer: 'Aldermoor',
      Model: spec.model,
      SerialNumber: spec.serial,
      Thermal: { '@odata.id': `${BOX}/Thermal` },
      Power: { '@odata.id': `${BOX}/Power` },
      Status: OK,
    }),
    [`${BOX}/Thermal`]: () =>
      enclosureThermal(
        array.inletCelsius(atMs),
        count(4).map((fan) => array.fanRpm(fan, atMs)),
      ),
    [`${BOX}/Power`]: () => ({
      Id: 'Power',
      PowerControl: [{ MemberId: '0', PowerConsumedWatts: array.watts(atMs) }],
      PowerSupplies: [1, 2].map((supply) => ({
        MemberId: String(supply),
        Name: `Supply ${supply}`,
        Model: 'Voltessa P14',
        SerialNumber: `VP-${spec.serial.slice(-3)}${supply}`,
        PowerOutputWatts: array.supplyWatts(supply, atMs),
        LineInputVoltage: array.isSupplyFed(supply, atMs) ? 231 : 0,
        Status: array.isSupplyFed(supply, atMs) ? OK : CRITICAL,
      })),
    }),
  }
}
