<script lang="ts">
  import { mayDo, type Role, ROLES } from '#core/accounts'
  import { enhance } from '$lib/client/forms'

  /** @param most no more than this may be given */
  let { most, of = 'me' }: { most: Role; of?: 'me' | 'machine' } = $props()
</script>

<form
  method="POST"
  action="?/newToken"
  use:enhance
  class="border-rule-2 mt-3 flex flex-wrap items-end gap-2 border-t pt-3"
>
  <input type="hidden" name="of" value={of} />
  <label class="grid gap-0.5">Name <input class="field w-40" name="name" required maxlength="64" /></label>
  <label class="grid gap-0.5">
    May
    <select class="field" name="role">
      {#each ROLES.filter((role) => mayDo(most, role)) as role (role)}<option value={role}>{role}</option
        >{/each}
    </select>
  </label>
  <label class="grid gap-0.5"
    >Holds, days <input
      class="field w-20 text-right"
      name="days"
      inputmode="numeric"
      value="90"
      required
    /></label
  >
  <button class="btn">Make a token</button>
</form>
