import { type Kysely, sql } from 'kysely'

/**
 * One word for one thing. A sender that waits to be claimed is pending; what a message goes out by is a channel; what a
 * step does is an action, and the commonest of them notifies.
 */
export async function up(db: Kysely<unknown>): Promise<void> {
  await sql`
    alter table waiting_sender rename to pending_sender;
    alter table waiting_push rename to pending_push;

    alter table means rename to channel;
    alter table message rename column means_id to channel_id;
    alter table message rename column deed to action;
    alter table message drop constraint message_deed_check;
    alter table message alter column action set default 'notify';
    update message set action = 'notify' where action = 'tell';
    alter table message add check (action in ('notify', 'command', 'stop'));
    update call_out set body = jsonb_set(body, '{steps}', coalesce((
      select jsonb_agg((step - 'deed') || jsonb_build_object('action',
          case when step->'deed'->>'do' = 'tell'
            then (step->'deed') - 'meansId' || jsonb_build_object('do', 'notify', 'channelId', step->'deed'->'meansId')
            else step->'deed' end) order by place)
        from jsonb_array_elements(body->'steps') with ordinality steps(step, place)), '[]'))
      where body ? 'steps';
    update alert_event set what = 'notified' where what = 'told';

    update setting set body = body - 'means' || jsonb_build_object('channels', body->'means')
      where key = 'alarm' and body ? 'means';
    update part set kind = 'channel', key = 'channel ' || substr(key, 7) where kind = 'means';
    update gear set kind = 'selfMonitoring' where kind = 'watcher';
    update rule set body = jsonb_set(body, '{scope,gearKind}', '"selfMonitoring"') where body->'scope'->>'gearKind' = 'watcher';
    update alert set rule_key = 'channel-stuck' where rule_key = 'means-stuck';
    update rule set key = 'channel-stuck', body = jsonb_set(body, '{key}', '"channel-stuck"') where key = 'means-stuck';
    update rule set body = jsonb_set(body, '{scope,partKind}', '"channel"') where body->'scope'->>'partKind' = 'means';
    update quiet set accepted = jsonb_set(accepted, '{ruleKey}', '"channel-stuck"')
      where accepted->>'ruleKey' = 'means-stuck';
    update quiet set scope = jsonb_set(scope, '{ruleKey}', '"channel-stuck"') where scope->>'ruleKey' = 'means-stuck';`.execute(
    db,
  )
}
