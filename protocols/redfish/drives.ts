import { roleInGroup } from '#core/disks'
import { type Collected, factsOf, healthOf, isThere } from './collected.ts'
import type { DriveTree } from './walk.ts'

const KIB = 1024
/** A data unit is a thousand of 512 octets. */
const DATA_UNIT = 512_000
type Metrics = NonNullable<DriveTree['metrics']>

/** Drives with what they say of themselves, of their role in a group, and what they have counted (DSP0268 Drive, DriveMetrics). */
export function addDrives(to: Collected, drives: readonly DriveTree[]): void {
  for (const { of: drive, metrics, environment } of drives) {
    const part = { key: `drive ${drive.Id}`, kind: 'drive', name: drive.Name ?? drive.Id } as const
    if (!isThere(drive.Status)) {
      to.addEmpty(part)
      continue
    }
    const groups = [...(drive.Links?.StoragePools ?? []), ...(drive.Links?.Volumes ?? [])]
    const namesOf = (links: typeof groups | null | undefined): string | undefined =>
      links?.map((at) => at['@odata.id'].split('/').at(-1)).join(', ')
    const smart = metrics?.NVMeSMART
    const used = smart?.PercentageUsed
    const left = drive.PredictedMediaLifeLeftPercent ?? (used == null ? null : Math.max(0, 100 - used))
    to.add(
      {
        ...part,
        facts: factsOf({
          model: drive.Model,
          serial: drive.SerialNumber,
          firmware: drive.Revision,
          partNumber: drive.PartNumber,
          pool: namesOf(drive.Links?.StoragePools),
          volume: namesOf(drive.Links?.Volumes),
          media: drive.MediaType,
          protocol: drive.Protocol,
          capacityBytes: drive.CapacityBytes,
        }),
      },
      {
        'hw.status': healthOf(drive.Status),
        'hw.drive.predicted_failure':
          drive.FailurePredicted == null ? undefined : drive.FailurePredicted ? 1 : 0,
        'hw.drive.life_left': left == null ? undefined : left / 100,
        'hw.drive.role': roleInGroup({
          indicator: drive.StatusIndicator ?? null,
          spare: drive.HotspareType ?? null,
          state: drive.Status?.State ?? null,
          groups: drive.Links == null ? null : groups.length,
        }),
        'hw.temperature':
          environment?.TemperatureCelsius?.Reading ?? smart?.CompositeTemperatureCelsius ?? undefined,
        ...(metrics === null ? {} : counted(metrics)),
      },
    )
  }
}

/** What is not told is left out. */
function counted(metrics: Metrics) {
  const smart = metrics.NVMeSMART
  const times = (value: number | null | undefined, scale: number): number | undefined =>
    value == null ? undefined : value * scale
  const errors = [metrics.UncorrectableIOReadErrorCount, metrics.UncorrectableIOWriteErrorCount]
  const [spare, threshold] = [smart?.AvailableSparePercent, smart?.AvailableSpareThresholdPercent]
  return {
    'hw.drive.written': times(metrics.WriteIOKiBytes, KIB) ?? times(smart?.DataUnitsWritten, DATA_UNIT),
    'hw.drive.read': times(metrics.ReadIOKiBytes, KIB) ?? times(smart?.DataUnitsRead, DATA_UNIT),
    'hw.drive.power_on': metrics.PowerOnHours ?? smart?.PowerOnHours ?? undefined,
    'hw.drive.reallocated': metrics.BadBlockCount ?? undefined,
    'hw.drive.uncorrectable': errors.every((each) => each == null)
      ? undefined
      : errors.reduce<number>((sum, each) => sum + (each ?? 0), 0),
    'hw.drive.used': times(smart?.PercentageUsed, 0.01),
    'hw.drive.spare': times(spare, 0.01),
    'hw.drive.spare_margin': spare == null || threshold == null ? undefined : (spare - threshold) / 100,
    'hw.drive.media_errors': smart?.MediaAndDataIntegrityErrors ?? undefined,
    'hw.drive.unsafe_shutdowns': smart?.UnsafeShutdowns ?? undefined,
    'hw.drive.power_cycles': smart?.PowerCycles ?? undefined,
  }
}
