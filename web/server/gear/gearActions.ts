import { splitSource, undoMerge } from '#db/gear'
import { formAction } from '../platform/formAction.ts'
import { idOf } from '../platform/params.ts'
import { gearForm, inventoryForm, mergeForm, splitForm } from './forms.ts'
import { changeGear, changeInventory, mergeable } from './gearChange.ts'

/** What people may change of a gear on its page. */
export const gearActions = {
  change: formAction({
    shape: gearForm,
    work: async (form, { trx, user, params }) => {
      await changeGear(trx, idOf(params['id']!), form, user.name)
      return { record: `changed gear ${form.name}` }
    },
  }),
  inventory: formAction({
    shape: inventoryForm,
    says: 'inventoryMessage',
    work: async (form, { trx, user, params }) => {
      await changeInventory(trx, idOf(params['id']!), form, user.name)
      return { tells: [{ topic: 'places' }] }
    },
  }),
  undo: formAction({
    shape: mergeForm,
    work: async ({ merge }, { trx, user, params }) => {
      await mergeable(() => undoMerge(trx, merge, user.name))
      return { record: `took gear ${params['id']} apart again` }
    },
  }),
  split: formAction({
    shape: splitForm,
    work: async ({ source }, { trx, user, params }) => {
      const gearId = idOf(params['id']!)
      const made = await mergeable(() => splitSource(trx, { gearId, sourceId: source, who: user.name }))
      return { record: `took what source ${source} sees apart from gear ${gearId}`, to: `/gear/${made}` }
    },
  }),
}
