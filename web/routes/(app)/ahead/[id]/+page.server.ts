import { error } from '@sveltejs/kit'
import { DAY_MS } from '#core/forecast'
import { endOrder, findForecast, insertOrder, listMarks, writeMark } from '#db/forecast'
import { aggregate } from '#db/readings'
import { aheadRow } from '$lib/server/forecast/ahead'
import { markForm, orderForm } from '$lib/server/forecast/forms'
import { formAction, idField } from '$lib/server/platform/formAction'
import { hears } from '$lib/server/platform/hears'
import { idOf } from '$lib/server/platform/params'
import { presentOf } from '$lib/server/platform/present'
import { Refused } from '$lib/server/platform/refused'
import { may } from '$lib/server/platform/signedIn'
import { seriesOfAmount } from '$lib/server/forecast/amount'
import { whatDrives } from '$lib/server/forecast/drivers'
import type { Actions, PageServerLoad } from './$types'

const PAST_DAYS = 400

export const load: PageServerLoad = async ({ locals, depends, params }) => {
  hears(depends, 'forecasts')
  const present = presentOf(locals)
  const id = idOf(params.id)
  const row = await findForecast(present.db, id)
  if (row === undefined) error(404, 'Nothing is forecast here: it is not finite, or it is gone.')
  const today = Math.ceil(present.nowMs / DAY_MS) * DAY_MS
  const amountId = await seriesOfAmount(present.db, row)
  const marks = (await listMarks(present.db, id)).get(id) ?? []
  const [days, drivers] = await Promise.all([
    aggregate(present.db, amountId, {
      fromMs: today - PAST_DAYS * DAY_MS,
      toMs: today,
      bucketMs: DAY_MS,
    }),
    whatDrives(present.db, row, { amountId, nowMs: present.nowMs, marks }),
  ])
  return {
    row: aheadRow(row),
    body: row.body,
    madeMs: row.madeMs,
    gearId: row.gearId,
    past: days.buckets.map(
      ({ fromMs, max, min }) =>
        [Math.min(present.nowMs, fromMs + DAY_MS / 2), row.body.direction === 'up' ? max : min] as const,
    ),
    marks,
    drivers,
    mayOperate: may(locals, 'operate'),
  }
}

const TELLS = [{ topic: 'forecasts' }] as const

export const actions: Actions = {
  order: formAction({
    shape: orderForm,
    work: async (form, { trx, params, user }) => {
      const seriesId = idOf(params['id'] ?? '')
      if ((await findForecast(trx, seriesId)) === undefined)
        throw new Refused('Nothing is forecast here any more.')
      await insertOrder(trx, { seriesId, ...form }, user.name)
      return { record: `noted an order: ${form.words}, expected ${form.expectedOn}`, tells: TELLS }
    },
  }),
  endOrder: formAction({
    shape: idField,
    work: async ({ id }, { trx, user }) => {
      if (!(await endOrder(trx, id, user.name))) throw new Refused('This order is not there any more.')
      return { tells: TELLS }
    },
  }),
  mark: formAction({
    shape: markForm,
    work: async ({ atMs, as }, { trx, params, user }) => {
      const seriesId = idOf(params['id'] ?? '')
      await writeMark(trx, { seriesId, atMs, as }, user.name)
      return {
        record: `said that a jump was ${as === 'growth' ? 'growth' : 'a one-off'}`,
        tells: TELLS,
      }
    },
  }),
}
