<script lang="ts">
  import Form from '../ui/Form.svelte'
  import Select from '../ui/Select.svelte'
  import Button from '../ui/Button.svelte'
  import Input from '../ui/Input.svelte'
  import { mayDo, type Role, ROLES } from '#core/accounts'

  /** @param most no more than this may be given */
  let { most, of = 'me' }: { most: Role; of?: 'me' | 'machine' } = $props()
</script>

<Form action="?/newToken" class="border-rule-2 mt-3 flex flex-wrap items-end gap-2 border-t pt-3">
  <input type="hidden" name="of" value={of} />
  <Input label="Name" class="w-40" name="name" required maxlength="64" />
  <Select
    label="Role"
    name="role"
    options={ROLES.filter((role) => mayDo(most, role)).map((role) => ({ value: role, label: role }))}
  />
  <Input
    label="Expires after (days)"
    class="w-20 text-right"
    name="days"
    inputmode="numeric"
    defaultValue="90"
    required
  />
  <Button>Create token</Button>
</Form>
