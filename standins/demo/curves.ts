import type { MeasureKey } from '#core/catalogue'
import { POOL_BYTES, type SimArray } from '../model/array.ts'
import type { SimChassis } from '../model/chassis.ts'
import type { SimCooling } from '../model/cooling.ts'
import type { SimGenerator } from '../model/generator.ts'
import type { SimHypervisor } from '../model/hypervisor.ts'
import { round } from '../model/noise.ts'
import type { SimPdu } from '../model/pdu.ts'
import type { SimProbes } from '../model/probes.ts'
import type { DriveState } from '../model/drive.ts'
import type { SimServer } from '../model/server.ts'
import type { SimSwitch } from '../model/switch.ts'
import type { SimUps } from '../model/ups.ts'
import type { SimVolumes } from '../model/volumes.ts'

/** The value of one series at a time, straight from the model; `null` where there was none. */
export type ValueAt = (atMs: number) => number | null

/** A series by what its source calls it. */
export interface SeriesKey {
  readonly gear: string
  readonly part: string | null
  readonly measure: MeasureKey
}

/**
 * How the value of a series runs, or `null` where it stands still. What these give is held against what the documents and
 * parsers give for the same moment by `past.integration.test.ts`: a year through those would take an hour.
 */
export type CurveOf = (series: SeriesKey) => ValueAt | null

const numbered = (part: string | null): number => Number(/(\d+)$/.exec(part ?? '')?.[1] ?? 0)
const state = (isTrue: boolean, yes: number, no: number): number => (isTrue ? yes : no)

export const serverCurves =
  (server: SimServer): CurveOf =>
  ({ part, measure }) => {
    const number = numbered(part)
    switch (`${part?.split(' ')[0] ?? ''} ${measure}`) {
      case ' hw.power':
        return (at) => server.watts(at)
      case ' hw.power.state':
        return (at) => state(server.isOn(at), 1, 0)
      case 'fan hw.fan.speed':
        return (at) => server.fanRpm(number, at)
      case 'supply hw.power':
        return (at) => server.supplyWatts(number, at)
      case 'processor hw.temperature':
        return (at) => server.processorCelsius(number, at)
      case 'temperature hw.temperature':
        return (at) => (part === 'temperature inlet' ? server.inletCelsius(at) : server.outletCelsius(at))
      case 'drive hw.drive.life_left':
        return (at) => server.driveLifePercent(number, at) / 100
      default:
        return null
    }
  }

export function chassisCurves(chassis: SimChassis): CurveOf {
  const blades = chassis.ties.blades.map(serverCurves)
  return (series) => {
    const { gear, part, measure } = series
    const number = numbered(part)
    if (gear.startsWith('/redfish/v1/Systems/')) return blades[numbered(gear) - 1]!(series)
    switch (`${part?.split(' ')[0] ?? ''} ${measure}`) {
      case ' hw.power':
        return (at) => chassis.watts(at)
      case 'fan hw.fan.speed':
        return (at) => chassis.fanRpm(number, at)
      case 'supply hw.power':
        return (at) => chassis.supplyWatts(number, at)
      case 'temperature hw.temperature':
        return (at) => chassis.inletCelsius(at)
      default:
        return null
    }
  }
}

export const arrayCurves =
  (array: SimArray): CurveOf =>
  ({ part, measure }) => {
    const number = numbered(part)
    const used = (at: number): number => Math.round(array.ties.usedBytes(at))
    const volume = part?.slice('volume '.length) ?? ''
    switch (`${part?.split(' ')[0] ?? ''} ${measure}`) {
      case ' hw.power':
        return (at) => array.watts(at)
      case 'fan hw.fan.speed':
        return (at) => array.fanRpm(number, at)
      case 'supply hw.power':
        return (at) => array.supplyWatts(number, at)
      case 'temperature hw.temperature':
        return (at) => array.inletCelsius(at)
      case 'drive hw.drive.life_left':
        return (at) => array.driveLifePercent(number, at) / 100
      case 'drive hw.drive.written':
        return (at) => Math.round(array.drive(number, at).writtenBytes / 1024) * 1024
      case 'drive hw.drive.read':
        return (at) => Math.round(array.drive(number, at).readBytes / 1024) * 1024
      case 'drive hw.drive.power_on':
        return (at) => array.drive(number, at).powerOnHours
      case 'volume system.filesystem.usage':
        return (at) => array.volume(volume, at).consumedBytes
      case 'volume system.filesystem.utilization':
        return (at) => {
          const { capacityBytes, consumedBytes } = array.volume(volume, at)
          return consumedBytes / capacityBytes
        }
      case 'volume system.filesystem.limit':
        return (at) => array.volume(volume, at).capacityBytes
      case 'pool system.filesystem.usage':
        return used
      case 'pool hw.pool.promise.usage':
        return (at) => array.promisedBytes(at)
      case 'pool hw.pool.promise.utilization':
        return (at) => array.promisedBytes(at) / POOL_BYTES
      case 'pool system.filesystem.utilization':
        return (at) => used(at) / POOL_BYTES
      default:
        return null
    }
  }

export const pduCurves =
  (pdu: SimPdu): CurveOf =>
  ({ part, measure }) => {
    const number = numbered(part)
    switch (`${part?.split(' ')[0] ?? ''} ${measure}`) {
      case ' hw.power':
        return (at) => pdu.watts(at)
      case 'outlet hw.power':
        return number > pdu.spec.cords.length ? null : (at) => pdu.outletWatts(number, at)
      case 'phase hw.current':
        return (at) => pdu.phaseAmperes(number - 1, at)
      case 'phase hw.voltage':
        return (at) => pdu.volts(at)
      default:
        return null
    }
  }

export const upsCurves =
  (ups: SimUps): CurveOf =>
  ({ part, measure }) => {
    switch (`${part?.split(' ')[0] ?? ''} ${measure}`) {
      case ' ups.output.load':
        return (at) => ups.loadPercent(at) / 100
      case ' ups.battery.minutes_left':
        return (at) => Math.floor(ups.minutesLeft(at))
      case 'output hw.power':
        return (at) => ups.outputWatts(at)
      case 'input hw.power':
        return (at) => Math.round(ups.outputWatts(at) * 1.06)
      case 'input hw.voltage':
        return (at) => ups.inputVolts(at)
      case ' hw.power':
        return (at) => ups.outputWatts(at)
      default:
        return null
    }
  }

const SECTOR = 512
const DATA_UNIT = 512_000
const hundredth = (ratio: number): number => Math.round(ratio * 100) / 100

/** What moves of a drive that its host tells of; the rest is as it is now. */
const PAGE_CURVES: Readonly<Record<string, (drive: DriveState, unit: (bytes: number) => number) => number>> =
  {
    'hw.drive.life_left': ({ lifeLeft }) => Math.max(0, hundredth(lifeLeft)),
    'hw.drive.used': ({ lifeLeft }) => hundredth(1 - lifeLeft),
    'hw.drive.spare': ({ spare }) => spare / 100,
    'hw.drive.spare_margin': ({ spare }) => (spare - 10) / 100,
    'hw.drive.written': ({ writtenBytes }, unit) => unit(writtenBytes),
    'hw.drive.read': ({ readBytes }, unit) => unit(readBytes),
    'hw.drive.commands.read': ({ readCommands }) => readCommands,
    'hw.drive.commands.written': ({ writeCommands }) => writeCommands,
    'hw.drive.busy': ({ busyMinutes }) => busyMinutes,
    'hw.drive.power_on': ({ powerOnHours }) => powerOnHours,
    'hw.temperature': ({ celsius }) => celsius,
    'hw.drive.attribute.9': ({ powerOnHours }) => powerOnHours,
    'hw.drive.attribute.194': ({ celsius }) => celsius,
    'hw.drive.attribute.194.value': ({ celsius }) => 100 - celsius,
    'hw.drive.attribute.241': ({ writtenBytes }) => Math.floor(writtenBytes / SECTOR),
    'hw.drive.attribute.242': ({ readBytes }) => Math.floor(readBytes / SECTOR),
  }

function pageCurve(server: SimServer, part: string, measure: string): ValueAt | null {
  const bay = numbered(part)
  const value = PAGE_CURVES[measure]
  // A page counts in sectors, or in units of a thousand of them, begun ones as whole.
  const unit = (bytes: number): number =>
    server.driveModel.protocol === 'SATA'
      ? Math.floor(bytes / SECTOR) * SECTOR
      : Math.ceil(bytes / DATA_UNIT) * DATA_UNIT
  return value === undefined ? null : (at) => value(server.drive(bay, at), unit)
}

export function hypervisorCurves(sim: SimHypervisor, server: SimServer | null = null): CurveOf {
  const { spec } = sim
  return ({ gear, part, measure }) => {
    if (server !== null && part?.startsWith('drive ') === true) return pageCurve(server, part, measure)
    const store = spec.stores.find(({ uuid }) => uuid === gear)
    if (store !== undefined) {
      if (measure === 'system.filesystem.utilization')
        return (at) => Number(sim.storeRatio(store, at).toFixed(5))
      if (measure === 'system.filesystem.usage')
        return (at) => Math.round(sim.storeRatio(store, at) * sim.storeCapacityBytes(store))
      return null
    }
    const machine = spec.machines.find(({ uuid }) => uuid === gear)
    if (machine !== undefined) {
      if (measure === 'system.cpu.utilization') return (at) => sim.machineRatio(machine, at)
      if (measure === 'system.memory.usage') return (at) => sim.machineMemoryUsedBytes(machine, at)
      if (measure === 'system.filesystem.usage') return (at) => sim.machineStoredBytes(machine, at)
      if (measure === 'system.disk.io.write') return (at) => sim.machineWrites(machine, at)
      if (measure === 'hw.network.io.receive') return (at) => sim.machineIo(machine, 'receive', at)
      if (measure === 'hw.network.io.transmit') return (at) => sim.machineIo(machine, 'transmit', at)
      return null
    }
    switch (measure) {
      case 'system.cpu.utilization':
        return (at) => Number((sim.guestRatio(at) + sim.hypervisorRatio(at)).toFixed(4))
      case 'host.cpu.guests':
        return (at) => sim.guestRatio(at)
      case 'host.cpu.hypervisor':
        return (at) => sim.hypervisorRatio(at)
      case 'system.memory.utilization':
        return (at) => sim.memoryRatio(at)
      case 'system.memory.usage':
        return (at) => Math.round(sim.memoryRatio(at) * spec.memoryGiB) * 1024 ** 3
      default:
        return null
    }
  }
}

export function volumeCurves(sim: SimVolumes): CurveOf {
  return ({ gear, measure }) => {
    const volume = sim.spec.volumes.find(({ uuid }) => uuid === gear)
    if (volume === undefined) return null
    const whenThere =
      (value: ValueAt): ValueAt =>
      (at) =>
        sim.exists(volume, at) ? value(at) : null
    switch (measure) {
      case 'system.volume.claim':
        return whenThere(() => sim.claim(volume))
      case 'system.filesystem.utilization':
        return whenThere((at) => sim.usedRatio(volume, at))
      case 'system.filesystem.usage':
        return whenThere((at) => {
          const used = sim.usedRatio(volume, at)
          return used === null ? null : Math.round(used * volume.capacityBytes)
        })
      case 'system.filesystem.inodes.utilization':
        return whenThere((at) => sim.inodesRatio(volume, at))
      default:
        return null
    }
  }
}

export const switchCurves =
  (sim: SimSwitch): CurveOf =>
  ({ part, measure }) => {
    if (part === null)
      return measure === 'system.uptime' ? (at) => Math.max(0, at - sim.startMs) / 1000 : null
    const port = sim.spec.ports.find(({ name }) => part === `port ${name}`)
    if (port === undefined) return null
    if (measure === 'hw.network.up') return (at) => state(sim.isUp(port, at), 1, 0)
    if (measure === 'hw.network.io.receive') return (at) => sim.rate(port, 'receive', at)
    return measure === 'hw.network.io.transmit' ? (at) => sim.rate(port, 'transmit', at) : null
  }

export function probeCurves(sim: SimProbes): CurveOf {
  return ({ gear, measure }) => {
    if (sim.spec.doors.includes(gear)) return (at) => state(sim.isOpen(gear, at), 1, 0)
    const probe = sim.spec.probes.find(({ name }) => name === gear)
    if (probe === undefined) return null
    const whenHeard =
      (value: ValueAt): ValueAt =>
      (at) =>
        sim.heardAt(at).includes(probe) ? value(at) : null
    switch (measure) {
      case 'hw.temperature':
        return whenHeard((at) => sim.celsius(probe, at))
      case 'hw.humidity':
        return whenHeard((at) => sim.humidity(probe, at))
      case 'hw.battery.charge':
        return whenHeard((at) => sim.charge(probe, at))
      case 'hw.signal':
        return whenHeard((at) => sim.signal(probe, at))
      default:
        return null
    }
  }
}

/** The name of a part of a register map, without its kind in front. */
const registerPart = (part: string | null): string => part?.replace(/^[a-z]+ /, '') ?? ''

/** Registers hold whole numbers of a step: what is read back is a multiple of it. */
const stepped = (value: number, perUnit: number): number => Math.round(value * perUnit) / perUnit

export const coolingCurves =
  (cooling: SimCooling): CurveOf =>
  ({ part, measure }) => {
    const reading = ((): ((now: ReturnType<SimCooling['at']>) => number) | null => {
      switch (`${registerPart(part)} ${measure}`) {
        case 'Supply air hw.temperature':
          return (now) => stepped(now.supply, 10)
        case 'Return air hw.temperature':
          return (now) => stepped(now.return, 10)
        case 'Return air hw.humidity':
          return (now) => stepped(now.humidity, 1000)
        case 'Water in hw.temperature':
          return (now) => stepped(now.waterIn, 10)
        case 'Water out hw.temperature':
          return (now) => stepped(now.waterOut, 10)
        case 'Fan 1 hw.fan.speed_ratio':
          return (now) => stepped(now.fans[0]!, 100)
        case 'Fan 2 hw.fan.speed_ratio':
          return (now) => stepped(now.fans[1]!, 100)
        case ' hw.power':
          return (now) => Math.round(now.watts / 10) * 10
        case ' hw.airflow':
          return (now) => Math.round(now.airflow / 10) * 10
        default:
          return null
      }
    })()
    return reading === null ? null : (at) => reading(cooling.at(at))
  }

export const generatorCurves =
  (generator: SimGenerator): CurveOf =>
  ({ part, measure }) => {
    if (registerPart(part) === 'Coolant' && measure === 'hw.temperature')
      return (at) => stepped(generator.at(at).coolant, 10)
    if (registerPart(part) === 'Starter battery' && measure === 'hw.voltage')
      return (at) => stepped(generator.at(at).starterVolts, 10)
    return null
  }

/** How long a page has taken to answer. */
export const answerMs = (atMs: number): number => round(3.2 + (Math.floor(atMs / 300_000) % 7) * 0.4, 1)

export const pageCurves =
  (isAlive: (atMs: number) => boolean): CurveOf =>
  ({ measure }) => {
    if (measure === 'net.reachable') return (at) => state(isAlive(at), 1, 0)
    if (measure === 'net.response_time') return (at) => (isAlive(at) ? answerMs(at) : null)
    return null
  }
