/** Something that happens in a night, so many minutes after it began. */
export type NightStep = { readonly atMin: number } & (
  | {
      readonly does: 'cause'
      readonly gear: string
      readonly fault: string
      readonly part?: string
      /** How many times faster than nature it runs its course. */
      readonly pace?: number
    }
  | { readonly does: 'mend'; readonly gear: string; readonly fault?: string; readonly part?: string }
  /** A gear says the same line so many times within a minute. */
  | {
      readonly does: 'say'
      readonly gear: string
      readonly severity: number
      readonly text: string
      readonly times: number
    }
  /** Somebody has gear be quiet. */
  | { readonly does: 'quiet'; readonly gear: string; readonly forMin: number; readonly because: string }
  /** The collector hears none of its sources. */
  | { readonly does: 'blind' }
  | { readonly does: 'see' }
  /** The clock of a sender is off by so much. */
  | { readonly does: 'set clock'; readonly source: string; readonly aheadS: number }
)

/** What must be told: a message whose subject has these words, sent between two times of the night. */
export interface NightTells {
  readonly subject: RegExp
  readonly fromMin: number
  readonly withinS: number
}

/** A night of the machine room: a script of faults, what must be told of it, and the most that may be. */
export interface Night {
  readonly key: string
  readonly words: string
  readonly lastsMin: number
  readonly steps: readonly NightStep[]
  readonly tells: readonly NightTells[]
  /** Rows on Watch beside those from before, and mails and texts from its beginning to its end. */
  readonly most: { readonly rows: number; readonly messages: number }
}

/**
 * The nights that ship. Each is played by the tests through everything that judges and tells, and by hand with
 * `bin/standin night KEY`.
 */
export const NIGHTS: readonly Night[] = [
  {
    key: 'mains-lost',
    words: 'mains lost at one UPS until its battery is empty, and back',
    lastsMin: 62,
    steps: [
      { atMin: 1, does: 'cause', gear: 'harbour-A', fault: 'lose-mains' },
      { atMin: 42, does: 'mend', gear: 'harbour-A' },
    ],
    tells: [
      { subject: /New: UPS harbour-A on battery, \d+.min left/, fromMin: 1, withinS: 60 },
      { subject: /Worse: .*harbour-A/, fromMin: 2, withinS: 35 * 60 },
      { subject: /Cleared: .*harbour-A/, fromMin: 42, withinS: 20 * 60 },
    ],
    // The outage, what gets worse of it, and the UPS that takes the load over.
    most: { rows: 8, messages: 20 },
  },
  {
    key: 'one-of-two',
    words: 'one of two UPS units of a room loses its mains for ten minutes',
    lastsMin: 25,
    steps: [
      { atMin: 1, does: 'cause', gear: 'harbour-B', fault: 'lose-mains' },
      { atMin: 11, does: 'mend', gear: 'harbour-B' },
    ],
    tells: [
      { subject: /New: UPS harbour-B on battery/, fromMin: 1, withinS: 60 },
      { subject: /Cleared: .*harbour-B/, fromMin: 11, withinS: 240 },
    ],
    most: { rows: 1, messages: 7 },
  },
  {
    key: 'strip-tripped',
    words: 'the breaker of a power strip trips, and is put back',
    lastsMin: 30,
    steps: [
      { atMin: 1, does: 'cause', gear: 'B04-A', fault: 'trip' },
      { atMin: 16, does: 'mend', gear: 'B04-A' },
    ],
    tells: [{ subject: /New: .*(B04-A|petrel-0[5-8])/, fromMin: 1, withinS: 240 }],
    most: { rows: 9, messages: 22 },
  },
  {
    key: 'switch-dead',
    words: 'a switch dies with what hangs on it',
    lastsMin: 30,
    steps: [
      { atMin: 1, does: 'cause', gear: 'reef-2', fault: 'die' },
      { atMin: 16, does: 'mend', gear: 'reef-2' },
    ],
    tells: [{ subject: /New: .*(reef-2|camera)/, fromMin: 1, withinS: 300 }],
    most: { rows: 4, messages: 14 },
  },
  {
    key: 'port-flaps',
    words: 'a port goes up and down for an hour',
    lastsMin: 75,
    steps: [
      { atMin: 1, does: 'cause', gear: 'reef-1', fault: 'flap-port', part: 'xe-03' },
      { atMin: 61, does: 'mend', gear: 'reef-1' },
    ],
    tells: [{ subject: /New: .*xe-03 in reef-1/, fromMin: 1, withinS: 180 }],
    most: { rows: 3, messages: 12 },
  },
  {
    key: 'host-off',
    words: 'one host is switched off for work that was announced, another by itself',
    lastsMin: 30,
    steps: [
      { atMin: 1, does: 'quiet', gear: 'petrel-03', forMin: 25, because: 'memory is added' },
      { atMin: 2, does: 'cause', gear: 'petrel-03', fault: 'power-off' },
      { atMin: 6, does: 'cause', gear: 'petrel-07', fault: 'power-off' },
      { atMin: 16, does: 'mend', gear: 'petrel-03' },
      { atMin: 17, does: 'mend', gear: 'petrel-07' },
    ],
    tells: [
      { subject: /New: .*petrel-07 is switched off/, fromMin: 6, withinS: 120 },
      { subject: /Cleared: .*petrel-07/, fromMin: 17, withinS: 240 },
    ],
    most: { rows: 3, messages: 8 },
  },
  {
    key: 'two-drives',
    words: 'a drive fails, and a second one of its group',
    lastsMin: 40,
    steps: [
      { atMin: 1, does: 'cause', gear: 'skua-2', fault: 'fail-drive', part: '7' },
      { atMin: 16, does: 'cause', gear: 'skua-2', fault: 'fail-drive', part: '12' },
    ],
    tells: [
      { subject: /New: d07 in skua-2 has failed/, fromMin: 1, withinS: 180 },
      { subject: /New: d12 in skua-2 has failed/, fromMin: 16, withinS: 180 },
    ],
    most: { rows: 4, messages: 10 },
  },
  {
    key: 'no-cooling',
    words: 'a cooling unit stops until racks are hot, and runs again',
    lastsMin: 75,
    steps: [
      { atMin: 1, does: 'cause', gear: 'brume-1', fault: 'stop' },
      { atMin: 41, does: 'mend', gear: 'brume-1' },
    ],
    tells: [{ subject: /New: .*brume-1/, fromMin: 1, withinS: 180 }],
    most: { rows: 8, messages: 30 },
  },
  {
    key: 'collector-blind',
    words: 'the collector hears nothing for ten minutes',
    lastsMin: 30,
    steps: [
      { atMin: 2, does: 'blind' },
      { atMin: 12, does: 'see' },
    ],
    tells: [{ subject: /New: .*(hears|blind)/i, fromMin: 2, withinS: 300 }],
    most: { rows: 4, messages: 10 },
  },
  {
    key: 'probe-fades',
    words: 'the battery of a probe runs down until it is not heard',
    lastsMin: 45,
    steps: [{ atMin: 1, does: 'cause', gear: 'hall-gateway', fault: 'fade', part: 'b03-front', pace: 72 }],
    tells: [
      { subject: /New: .*b03-front: charge/, fromMin: 15, withinS: 600 },
      { subject: /New: b03-front is not heard/, fromMin: 20, withinS: 1500 },
    ],
    most: { rows: 3, messages: 8 },
  },
  {
    key: 'log-storm',
    words: 'a device fills the log, with an emergency in the midst',
    lastsMin: 30,
    steps: [
      { atMin: 1, does: 'say', gear: 'reef-3', severity: 2, text: 'parity error on fabric 2', times: 3000 },
      { atMin: 3, does: 'say', gear: 'petrel-06', severity: 0, text: 'panic: machine check', times: 1 },
      { atMin: 4, does: 'say', gear: 'reef-3', severity: 2, text: 'parity error on fabric 2', times: 3000 },
    ],
    tells: [
      { subject: /New: reef-3 says/, fromMin: 1, withinS: 60 },
      { subject: /New: petrel-06 says/, fromMin: 3, withinS: 60 },
    ],
    most: { rows: 2, messages: 6 },
  },
  {
    key: 'work-overruns',
    words: 'work that was announced takes longer than was said',
    lastsMin: 50,
    steps: [
      { atMin: 1, does: 'quiet', gear: 'petrel-05', forMin: 20, because: 'its fans are changed' },
      { atMin: 3, does: 'cause', gear: 'petrel-05', fault: 'stop-fan', part: '2' },
      { atMin: 40, does: 'mend', gear: 'petrel-05' },
    ],
    tells: [
      { subject: /(New|Still open after .*): Fan 2 .*petrel-05/, fromMin: 21, withinS: 90 },
      { subject: /Cleared: .*petrel-05/, fromMin: 40, withinS: 240 },
    ],
    most: { rows: 1, messages: 4 },
  },
  {
    key: 'clock-wrong',
    words: 'the clock of a sender is set five minutes back, and right again',
    lastsMin: 40,
    steps: [
      { atMin: 2, does: 'set clock', source: 'petrel-02 hypervisor', aheadS: -300 },
      { atMin: 22, does: 'set clock', source: 'petrel-02 hypervisor', aheadS: 0 },
    ],
    tells: [{ subject: /New: .*clock/i, fromMin: 2, withinS: 420 }],
    most: { rows: 2, messages: 6 },
  },
  {
    key: 'mail-refused',
    words: 'all mail is refused for twenty minutes in the midst of an outage and a fan that stops',
    lastsMin: 50,
    steps: [
      { atMin: 1, does: 'cause', gear: 'harbour-B', fault: 'lose-mains' },
      { atMin: 4, does: 'cause', gear: 'mail-server', fault: 'refuse' },
      { atMin: 6, does: 'cause', gear: 'petrel-08', fault: 'stop-fan', part: '1' },
      { atMin: 9, does: 'mend', gear: 'harbour-B' },
      { atMin: 24, does: 'mend', gear: 'mail-server' },
      { atMin: 35, does: 'mend', gear: 'petrel-08' },
    ],
    tells: [
      { subject: /New: UPS harbour-B on battery/, fromMin: 1, withinS: 60 },
      { subject: /(Still open after|New).*: .*Fan 1 .*petrel-08/, fromMin: 24, withinS: 180 },
      { subject: /Cleared: .*petrel-08/, fromMin: 35, withinS: 240 },
    ],
    most: { rows: 2, messages: 10 },
  },
]
