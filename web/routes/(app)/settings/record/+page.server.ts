import { differenceLines } from '#core/accounts'
import { countRecord, listRecord } from '#db/accounts'
import { recordPublicKey } from '$lib/server/accounts/recordFile'
import { recordFilterOf } from '$lib/server/accounts/recordFilter'
import { idIn } from '$lib/server/platform/params'
import { installation } from '$lib/server/platform/installation'
import { windowIn } from '$lib/server/readings/window'
import type { PageServerLoad } from './$types'

const A_PAGE = 100
const MOST_DIFFERENCES = 40

export const load: PageServerLoad = async ({ url }) => {
  const { db, key } = installation()
  const window = windowIn(url, Date.now())
  const filter = recordFilterOf(url.searchParams, window)
  const all = { ...filter, words: [], kind: null, outcome: null }
  const [lines, changes, signIns, refused] = await Promise.all([
    listRecord(db, filter, A_PAGE + 1, idIn(url.searchParams, 'before')),
    countRecord(db, { ...all, kind: 'change' }),
    countRecord(db, { ...all, kind: 'sign-in', outcome: 'done' }),
    countRecord(db, { ...all, outcome: 'refused' }),
  ])
  return {
    window,
    filter: { words: filter.words.join(' '), kind: filter.kind, outcome: filter.outcome },
    counts: { changes, signIns, refused },
    publicKey: recordPublicKey(key),
    lines: lines.slice(0, A_PAGE).map(({ at, rows, ...line }) => {
      const differs = rows.flatMap(differenceLines)
      return {
        ...line,
        atMs: at.getTime(),
        differs: differs.slice(0, MOST_DIFFERENCES),
        more: Math.max(0, differs.length - MOST_DIFFERENCES),
      }
    }),
    nextId: lines.length > A_PAGE ? lines[A_PAGE - 1]!.id : null,
  }
}
