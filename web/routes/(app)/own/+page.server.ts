import { fail, type RequestEvent } from '@sveltejs/kit'
import type { z } from 'zod'
import { browserName, lesserRole, THEMES } from '#core/accounts'
import { TEMPERATURE_SCALES } from '#core/units'
import {
  deleteApiToken,
  endSession,
  endSessions,
  findAccount,
  insertApiToken,
  listApiTokens,
  listSessions,
  renameAccount,
  setTemperatures,
  setTheme,
} from '#db/accounts'
import { actAs, recordChange, transact } from '#db/platform'
import { renderSVG } from 'uqr'
import { atOf } from '$lib/server/accounts/at'
import {
  code,
  endOf,
  newToken,
  ownName,
  ownPassword,
  ownTemperatures,
  ownTheme,
  passwordChange,
  sessionId,
} from '$lib/server/accounts/forms'
import {
  beginSecondFactor,
  changePassword,
  confirmSecondFactor,
  endSecondFactor,
  newRecoveryCodes,
  type OwnOutcome,
} from '$lib/server/platform/auth'
import { passCookies } from '$lib/server/platform/cookies'
import { firstProblem } from '$lib/server/platform/fields'
import { formAction, idField, noFields } from '$lib/server/platform/formAction'
import { installation } from '$lib/server/platform/installation'
import { Refused } from '$lib/server/platform/refused'
import { signedIn } from '$lib/server/platform/signedIn'
import type { Actions, PageServerLoad } from './$types'

export const load: PageServerLoad = async ({ locals }) => {
  const { db } = installation()
  const { id, temperatures, sessionId: own } = signedIn(locals)
  const [account, sessions, tokens] = await Promise.all([
    findAccount(db, id),
    listSessions(db, id),
    listApiTokens(db, id),
  ])
  return {
    account: {
      name: account?.name ?? '',
      email: account?.email ?? '',
      role: account?.role ?? 'see',
      directory: account?.directory ?? null,
      hasSecondFactor: account?.hasSecondFactor ?? false,
      temperatures,
    },
    sessions: sessions.map((session) => ({
      id: session.id,
      isThis: session.id === own,
      fromMs: session.createdAt.getTime(),
      lastMs: session.lastAt.getTime(),
      address: session.address,
      browser: browserName(session.browser),
    })),
    tokens: tokens.map(({ id: tokenId, name, role, expiresAt, lastUsedAt }) => ({
      id: tokenId,
      name,
      role,
      endsMs: expiresAt.getTime(),
      usedMs: lastUsedAt?.getTime() ?? null,
    })),
  }
}

/** What the sign-in library does by itself, and what stands of it in the record. */
interface ByLibrary<Shape extends z.ZodType, Done> {
  readonly about: string
  readonly shape: Shape
  readonly wrong: string
  readonly record: string | null
  readonly work: (event: RequestEvent, form: z.infer<Shape>) => Promise<OwnOutcome<Done>>
}

/**
 * An action on one's own account that the sign-in library does. It writes by itself, so that the record of it comes right
 * after, and not with it.
 */
function byLibrary<Shape extends z.ZodType, Done extends object, Shown extends object>(
  { about, shape, wrong, record, work }: ByLibrary<Shape, Done>,
  show: (done: Done) => Shown,
) {
  return async (event: RequestEvent) => {
    const parsed = shape.safeParse(Object.fromEntries(await event.request.formData()))
    if (!parsed.success) return fail(400, { about, message: firstProblem(parsed.error) })
    const outcome = await work(event, parsed.data)
    if (outcome.kind === 'tooMany')
      return fail(429, { about, message: `Too many tries. Wait ${outcome.retrySeconds} s, then try again.` })
    if (outcome.kind === 'wrong') return fail(400, { about, message: wrong })
    passCookies(event.cookies, outcome.cookies)
    if (record !== null)
      await transact(installation().db, async (trx) => {
        const user = signedIn(event.locals)
        await actAs(trx, { id: user.id, address: event.locals.address })
        await recordChange(trx, user.name, record)
      })
    return { about, message: null, ...show(outcome.done) }
  }
}

const WRONG_PASSWORD = 'This is not your present password.'

export const actions: Actions = {
  rename: formAction({
    shape: ownName,
    about: () => ({ about: 'name' }),
    work: async ({ name }, { trx, user }) => {
      await renameAccount(trx, user.id, name)
      return { record: `is called ${name} from now on` }
    },
  }),
  theme: formAction({
    shape: ownTheme,
    about: () => ({ about: 'theme' }),
    work: async ({ theme }, { trx, user }) => {
      await setTheme(trx, user.id, theme)
      return { record: `has pages look as “${THEMES[theme]}”` }
    },
  }),
  temperatures: formAction({
    shape: ownTemperatures,
    about: () => ({ about: 'temperatures' }),
    work: async ({ temperatures }, { trx, user }) => {
      await setTemperatures(trx, user.id, temperatures)
      return { record: `reads temperatures in ${TEMPERATURE_SCALES[temperatures]}` }
    },
  }),
  password: byLibrary(
    {
      about: 'password',
      shape: passwordChange,
      wrong: WRONG_PASSWORD,
      record: 'chose a new password',
      work: (event, { current, password }) => changePassword(atOf(event), current, password),
    },
    () => ({ done: 'Your password is another one now. Your other sessions have ended.' }),
  ),
  begin: byLibrary(
    {
      about: 'factor',
      shape: ownPassword,
      wrong: WRONG_PASSWORD,
      record: null,
      work: (event, { current }) => beginSecondFactor(atOf(event), current),
    },
    ({ totpURI, backupCodes }) => ({
      begun: {
        svg: renderSVG(totpURI, { border: 2 }),
        secret: new URL(totpURI).searchParams.get('secret') ?? '',
        codes: backupCodes,
      },
    }),
  ),
  confirm: byLibrary(
    {
      about: 'factor',
      shape: code,
      wrong:
        'This code does not fit now. Compare the clock of the device that makes the codes, and enter the next one.',
      record: 'set up a second factor',
      work: (event, form) => confirmSecondFactor(atOf(event), form.code),
    },
    () => ({ done: 'From now on signing in takes your password and a code.' }),
  ),
  codes: byLibrary(
    {
      about: 'factor',
      shape: ownPassword,
      wrong: WRONG_PASSWORD,
      record: 'made new recovery codes',
      work: (event, { current }) => newRecoveryCodes(atOf(event), current),
    },
    ({ backupCodes }) => ({ newCodes: backupCodes }),
  ),
  endFactor: byLibrary(
    {
      about: 'factor',
      shape: ownPassword,
      wrong: WRONG_PASSWORD,
      record: 'gave the second factor up',
      work: (event, { current }) => endSecondFactor(atOf(event), current),
    },
    () => ({ done: 'Signing in takes your password alone now.' }),
  ),
  endSession: formAction({
    shape: sessionId,
    about: () => ({ about: 'sessions' }),
    work: async ({ id }, { trx, user }) => {
      if (!(await endSession(trx, user.id, id))) throw new Refused('This session has ended already.')
      return { record: 'ended a session', tells: [{ topic: 'accounts' }] }
    },
  }),
  endOthers: formAction({
    shape: noFields,
    about: () => ({ about: 'sessions' }),
    work: async (_form, { trx, user }) => {
      await endSessions(trx, user.id, user.sessionId)
      return { record: 'signed out everywhere else', tells: [{ topic: 'accounts' }] }
    },
  }),
  newToken: formAction({
    shape: newToken,
    about: () => ({ about: 'tokens' }),
    taken: ({ name }) => `There is a token called ${name} already.`,
    work: async ({ name, role, days }, { trx, user }) => {
      const least = lesserRole(role, user.role)
      const token = await insertApiToken(trx, {
        name,
        userId: user.id,
        role: least,
        madeBy: user.name,
        expiresAt: endOf(days, Date.now()),
      })
      return {
        record: `made a token ${name} of their own to ${least}, for ${days} days`,
        done: { token, name },
      }
    },
  }),
  dropToken: formAction({
    shape: idField,
    about: () => ({ about: 'tokens' }),
    work: async ({ id }, { trx, user }) => {
      const name = await deleteApiToken(trx, id, user.id)
      if (name === undefined) throw new Refused('This token is not there any more.')
      return { record: `ended the token ${name}` }
    },
  }),
}
