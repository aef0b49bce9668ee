import { drawLink, eraseLink } from '#db/links'
import { formAction } from '../platform/formAction.ts'
import { idOf } from '../platform/params.ts'
import { Refused } from '../platform/refused.ts'
import { linkForm, linkTo, unlinkForm } from './forms.ts'

const PLACES = [{ topic: 'places' }] as const

/** Drawing and erasing links on the page of a gear. */
export const linkActions = {
  link: formAction({
    shape: linkForm,
    says: 'linkMessage',
    work: async (form, { trx, user, params }) => {
      const { kind, fromGearId, toGearId } = await linkTo(trx, idOf(params['id']!), form)
      if (!(await drawLink(trx, { kind, fromGearId, toGearId }, user.name)))
        throw new Refused('This link is drawn already.')
      return { record: `drew a link ${kind} between gear ${fromGearId} and ${toGearId}`, tells: PLACES }
    },
  }),
  unlink: formAction({
    shape: unlinkForm,
    says: 'linkMessage',
    work: async ({ link }, { trx }) => {
      if (!(await eraseLink(trx, link)))
        throw new Refused('A source tells of this link; it goes when the source tells otherwise.')
      return { record: `erased link ${link}`, tells: PLACES }
    },
  }),
}
