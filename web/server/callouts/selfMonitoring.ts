import { feedsOfParts, type AlarmPart, lossesOf, lossSentence } from '#core/alerts'
import {
  type AlarmSetting,
  listChannels,
  listCollectors,
  listHeartbeats,
  missedBeats,
  readAlarm,
} from '#db/callouts'
import { listCauseGraph } from '#db/alerts'
import { findOwnGear } from '#db/gear'
import type { Db } from '#db/platform'

/** On which feeds the alarm itself hangs, and the heartbeats to and from others. */
export async function loadSelfMonitoring(db: Db, nowMs: number) {
  const [setting, collectors, channels, graph, beats, own] = await Promise.all([
    readAlarm(db),
    listCollectors(db),
    listChannels(db),
    listCauseGraph(db),
    listHeartbeats(db),
    findOwnGear(db),
  ])
  const parts: (AlarmPart & { readonly key: string })[] = [
    ...collectors.map(({ name }) => ({
      what: 'collector' as const,
      name,
      gearId: setting.collectors[name] ?? null,
      key: `collector ${name}`,
    })),
    { what: 'database' as const, name: 'database', gearId: setting.database, key: 'database' },
    ...channels
      .filter(({ kind }) => kind !== 'screen')
      .map(({ id, name }) => ({
        what: 'channel' as const,
        name,
        gearId: setting.channels[String(id)] ?? null,
        key: `channel ${id}`,
      })),
  ]
  const feeds = feedsOfParts(parts, graph.gear, graph.links)
  const losses = lossesOf(feeds, graph.gear)
  return {
    sentences: losses.flatMap((loss) => {
      const sentence = lossSentence(loss)
      return sentence === null ? [] : [{ sentence, isSilenced: loss.isSilenced }]
    }),
    ups: losses.map(({ ups }) => ({ id: ups.id, name: ups.name })),
    parts: parts.map((part, index) => ({ ...part, upsIds: feeds[index]!.upsIds })),
    gear: [...graph.gear.values()]
      .map(({ id, name }) => ({ id, name }))
      .sort((a, b) => a.name.localeCompare(b.name)),
    beats: beats.map((beat) => ({
      id: beat.id,
      direction: beat.direction,
      name: beat.name,
      url: beat.url,
      intervalSeconds: beat.intervalSeconds,
      missed: missedBeats(beat, nowMs),
      throughAtMs: beat.throughAt?.getTime() ?? null,
      answer: beat.answer,
    })),
    ownGearId: own,
  }
}

/** What is weak about the alarm itself, for the page of call-outs. */
export async function alarmWeaknesses(db: Db): Promise<string[]> {
  const { sentences } = await loadSelfMonitoring(db, Date.now())
  return sentences.filter(({ isSilenced }) => isSilenced).map(({ sentence }) => sentence)
}

/** On which gear the alarm runs, out of its form: `collector NAME`, `channel ID` and `database` with the gear's number. */
export function alarmOf(fields: Readonly<Record<string, string>>): AlarmSetting {
  const ids = (prefix: string): Record<string, number> =>
    Object.fromEntries(
      Object.entries(fields).flatMap(([name, value]) =>
        name.startsWith(prefix) && Number(value) > 0 ? [[name.slice(prefix.length), Number(value)]] : [],
      ),
    )
  const database = Number(fields['database'] ?? '')
  return {
    collectors: ids('collector '),
    database: database > 0 ? database : null,
    channels: ids('channel '),
  }
}
