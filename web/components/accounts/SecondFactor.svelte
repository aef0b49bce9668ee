<script lang="ts">
  import Form from '../ui/Form.svelte'
  import Panel from '../ui/Panel.svelte'
  import Button from '../ui/Button.svelte'
  import Input from '../ui/Input.svelte'

  interface Begun {
    readonly svg: string
    readonly secret: string
    readonly codes: readonly string[]
  }
  type Answer = {
    readonly about?: string
    readonly message?: string | null
    readonly done?: unknown
    readonly begun?: Begun
    readonly newCodes?: readonly string[]
  }

  let { isOn, form }: { isOn: boolean; form: object | null } = $props()
  const answer = $derived((form ?? {}) as Answer)
  const isOurs = $derived(answer.about === 'factor')
  const message = $derived(isOurs ? (answer.message ?? null) : null)
  /** What was begun stays until a code was right, also when the first was not. */
  let begun = $state.raw<Begun | null>(null)
  $effect(() => {
    if (answer.begun !== undefined) begun = answer.begun
    else if (isOurs && typeof answer.done === 'string') begun = null
  })
  const image = $derived(begun === null ? '' : `data:image/svg+xml;utf8,${encodeURIComponent(begun.svg)}`)
  /** In fours, as people type it. */
  const spaced = (secret: string): string => secret.replaceAll(/(.{4})(?=.)/g, '$1 ')
</script>

{#snippet codesOf(codes: readonly string[])}
  <p class="mt-3">
    Recovery codes, each good for one sign-in when the device is not at hand. Print them or write them down;
    they are not shown again.
  </p>
  <ul class="mt-1 grid grid-cols-3 gap-x-4 font-mono text-[12px]" aria-label="Recovery codes">
    {#each codes as code (code)}<li>{code}</li>{/each}
  </ul>
{/snippet}

<Panel
  title="Second factor"
  note="a code of six digits from a device of yours, new each half minute"
  id="factor"
>
  {#if message !== null}<p class="text-crit mb-2" role="alert">{message}</p>{/if}
  {#if isOurs && typeof answer.done === 'string'}<p class="mb-2" role="status">{answer.done}</p>{/if}
  {#if begun !== null && !isOn}
    <div class="flex items-start gap-4">
      <img src={image} alt="The key, to be scanned" width="148" height="148" class="bg-white" />
      <div>
        <p>Scan this with what makes your codes, or type the key:</p>
        <p class="mt-1 font-mono text-[12px] break-all" data-testid="factor-key">{spaced(begun.secret)}</p>
        <Form action="?/confirm" class="mt-3 flex items-end gap-2">
          <Input
            label="The code it shows now"
            class="w-32 font-mono"
            name="code"
            inputmode="numeric"
            autocomplete="one-time-code"
            required
          />
          <Button look="strong">Enable</Button>
        </Form>
      </div>
    </div>
    {@render codesOf(begun.codes)}
  {:else if isOn}
    <p>In force: signing in takes your password and a code.</p>
    {#if isOurs && answer.newCodes !== undefined}{@render codesOf(answer.newCodes)}{/if}
    <Form class="mt-2 flex items-end gap-2">
      <Input
        label="Your password"
        class="w-44"
        name="current"
        type="password"
        autocomplete="current-password"
        required
      />
      <Button formaction="?/codes">Create new recovery codes</Button>
      <Button formaction="?/endFactor">Cancel</Button>
    </Form>
  {:else}
    <Form action="?/begin" class="flex items-end gap-2">
      <Input
        label="Your password"
        class="w-44"
        name="current"
        type="password"
        autocomplete="current-password"
        required
      />
      <Button>Set up</Button>
    </Form>
  {/if}
</Panel>
