import type { Db } from '../platform/connect.ts'

/** The newest messages, what waits first. */
export const listMessages = (db: Db, most: number) =>
  db
    .selectFrom('message')
    .leftJoin('channel', 'channel.id', 'message.channelId')
    .leftJoin('alert', 'alert.id', 'message.alertId')
    .leftJoin('callOut', 'callOut.id', 'message.callOutId')
    .select([
      'message.id',
      'message.alertId',
      'message.team',
      'message.event',
      'message.subject',
      'message.action',
      'message.step',
      'message.dueAt',
      'message.createdAt',
      'message.sentAt',
      'message.attempts',
      'message.answer',
      'message.skipped',
      'message.isFailed',
      'message.isDry',
      'message.recipients',
      'message.channelId',
      'channel.name as channelName',
      'channel.kind as channelKind',
      'alert.title',
      'callOut.name as callOutName',
    ])
    .orderBy('message.dueAt', 'desc')
    .limit(most)
    .execute()

/** What is called out on every open page: open, and taken by nobody yet. The newest first. */
export const listScreenCalls = (db: Db, most: number) =>
  db
    .selectFrom('message')
    .innerJoin('channel', 'channel.id', 'message.channelId')
    .innerJoin('alert', 'alert.id', 'message.alertId')
    .select([
      'message.id',
      'alert.id as alertId',
      'alert.title',
      'alert.severity',
      'message.sentAt',
      'channel.settings',
    ])
    .where('channel.kind', '=', 'screen')
    .where('message.sentAt', 'is not', null)
    .where('message.event', '!=', 'cleared')
    .where('alert.clearedAt', 'is', null)
    .where('alert.takenAt', 'is', null)
    .where('alert.quietId', 'is', null)
    .orderBy('message.sentAt', 'desc')
    .limit(most)
    .execute()

/** One message, as far as whoever sent a test asks. */
export const findMessage = (db: Db, id: string) =>
  db
    .selectFrom('message')
    .select(['id', 'channelId', 'team', 'answer', 'sentAt', 'isFailed', 'recipients', 'isDry'])
    .where('id', '=', id)
    .executeTakeFirst()
