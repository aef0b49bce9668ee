import type { FarLinkFinding } from '#core/gear'
import { Collected, factsOf, healthOf, isThere, reading } from './collected.ts'
import { addLeaks } from './enclosure.ts'
import { gearFrom, type OneGear } from './gear.ts'
import type { CoolingTree, DistributionTree } from './walk.ts'

/** A power distribution unit with its outlets and circuits (DSP0268 PowerDistribution, Outlet, Circuit). */
export function distributionFindings({ unit, outlets, mains, metrics }: DistributionTree): OneGear {
  const to = new Collected(unit['@odata.id'])
  const values = (each: DistributionTree['outlets'][number]) => ({
    'hw.status': healthOf(each.Status),
    'hw.voltage': reading(each.Voltage),
    'hw.current': reading(each.CurrentAmps),
    'hw.power': reading(each.PowerWatts),
    'hw.energy': reading(each.EnergykWh),
  })
  for (const main of mains.filter((each) => isThere(each.Status)))
    to.add({ key: `phase ${main.Id}`, kind: 'phase', name: main.Name ?? main.Id, facts: {} }, values(main))
  for (const outlet of outlets.filter((each) => isThere(each.Status)))
    to.add(
      { key: `outlet ${outlet.Id}`, kind: 'outlet', name: outlet.Name ?? `Outlet ${outlet.Id}`, facts: {} },
      {
        ...values(outlet),
        'hw.outlet.state': outlet.PowerState == null ? undefined : outlet.PowerState === 'Off' ? 0 : 1,
      },
    )
  to.own({
    'hw.status': healthOf(unit.Status),
    'hw.power': reading(metrics?.PowerWatts),
    'hw.energy': reading(metrics?.EnergykWh),
  })
  return gearFrom('pdu', unit, { facts: factsOf({ firmware: unit.FirmwareVersion }), to })
}

/** A cooling unit with pumps, coolant connectors and leak detectors (DSP0268 CoolingUnit, Pump, CoolantConnector). */
export function coolingFindings({ unit, pumps, connectors, leaks, environment }: CoolingTree): OneGear {
  const to = new Collected(unit['@odata.id'])
  for (const pump of pumps) {
    const part = { key: `pump ${pump.Id}`, kind: 'pump', name: pump.Name ?? `Pump ${pump.Id}` } as const
    if (!isThere(pump.Status)) {
      to.addEmpty(part)
      continue
    }
    to.add(
      { ...part, facts: {} },
      {
        'hw.status': healthOf(pump.Status),
        'hw.fan.speed':
          pump.PumpSpeedPercent == null ? undefined : (pump.PumpSpeedPercent.SpeedRPM ?? undefined),
        'hw.fan.speed_ratio': reading(pump.PumpSpeedPercent, 0.01),
      },
    )
  }
  for (const connector of connectors)
    for (const [way, excerpt] of [
      ['supply', connector.SupplyTemperatureCelsius],
      ['return', connector.ReturnTemperatureCelsius],
    ] as const)
      if (excerpt != null)
        to.add(
          {
            key: `coolant ${connector['@odata.id']} ${way}`,
            kind: 'sensor',
            name: `${connector.Name ?? `Coolant ${connector.Id}`}, ${way}`,
            facts: {},
          },
          { 'hw.temperature': reading(excerpt) },
        )
  addLeaks(to, leaks)
  to.own({
    'hw.status': healthOf(unit.Status),
    'hw.power': reading(environment?.PowerWatts),
    'hw.temperature': reading(environment?.TemperatureCelsius),
  })
  return gearFrom('cooling', unit, { facts: factsOf({ firmware: unit.FirmwareVersion }), to })
}

const SUPPLY = /^(.+?)[ ,:/]+((?:power )?supply \d+|psu ?\d+)$/i

/**
 * What a power distribution unit says of both sides of it (DSP0268 Outlet `ElectricalConsumerNames`, Circuit
 * `ElectricalSourceName`): names that people have given. “petrel-05 supply 1” is a supply of petrel-05.
 */
export function consumersOf({ unit, outlets, mains }: DistributionTree): FarLinkFinding[] {
  const gear = unit['@odata.id']
  const far = (name: string, part: string | null) => ({ identities: [], name, part })
  const consumers = outlets.flatMap((outlet) =>
    (outlet.ElectricalConsumerNames ?? []).flatMap((named): FarLinkFinding[] => {
      if (named == null || named.trim() === '') return []
      const [, name, part] = SUPPLY.exec(named.trim()) ?? []
      const end = name === undefined ? far(named.trim(), null) : far(name, `supply ${/\d+$/.exec(part!)![0]}`)
      return [{ kind: 'fed-by', gear, part: `outlet ${outlet.Id}`, isFrom: false, far: end }]
    }),
  )
  const feeds = [...new Set(mains.flatMap((main) => main.ElectricalSourceName?.trim() || []))]
  return [
    ...consumers,
    ...feeds.map((name) => ({
      kind: 'fed-by' as const,
      gear,
      part: null,
      isFrom: true,
      far: far(name, null),
    })),
  ]
}
