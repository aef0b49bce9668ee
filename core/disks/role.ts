/** The values of `hw.drive.role`. */
export const ROLE = {
  inGroup: 0,
  spare: 1,
  rebuilding: 2,
  inDegraded: 3,
  inFailed: 4,
  failed: 5,
  inNone: 6,
  ofAnother: 7,
} as const

/** Of Redfish (DSP0268 Drive, StatusIndicator); what is not here says nothing of a group. */
const BY_INDICATOR: Readonly<Record<string, number>> = {
  Fail: ROLE.failed,
  Rebuild: ROLE.rebuilding,
  Hotspare: ROLE.spare,
  InACriticalArray: ROLE.inDegraded,
  InAFailedArray: ROLE.inFailed,
}

/**
 * What a drive is to its group: one of `hw.drive.role`; `undefined` where the device says nothing of groups.
 * @param told StatusIndicator, HotspareType and Status.State as told, and of how many groups it is; `null` is not told
 */
export function roleInGroup(told: {
  readonly indicator: string | null
  readonly spare: string | null
  readonly state: string | null
  readonly groups: number | null
}): number | undefined {
  const indicated = BY_INDICATOR[told.indicator ?? '']
  if (indicated !== undefined) return indicated
  if (told.state === 'StandbySpare' || (told.spare !== null && told.spare !== 'None')) return ROLE.spare
  if (told.groups === null) return undefined
  return told.groups > 0 ? ROLE.inGroup : ROLE.inNone
}
