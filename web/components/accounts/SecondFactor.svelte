<script lang="ts">
  import { enhance } from '$lib/client/forms'

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

<section class="panel" aria-labelledby="factor">
  <h2 class="panel-title" id="factor">
    Second factor <span>a code of six digits from a device of yours, new each half minute</span>
  </h2>
  {#if message !== null}<p class="text-crit mb-2" role="alert">{message}</p>{/if}
  {#if isOurs && typeof answer.done === 'string'}<p class="mb-2" role="status">{answer.done}</p>{/if}
  {#if begun !== null && !isOn}
    <div class="flex items-start gap-4">
      <img src={image} alt="The key, to be scanned" width="148" height="148" class="bg-white" />
      <div>
        <p>Scan this with what makes your codes, or type the key:</p>
        <p class="mt-1 font-mono text-[12px] break-all" data-testid="factor-key">{spaced(begun.secret)}</p>
        <form method="POST" action="?/confirm" use:enhance class="mt-3 flex items-end gap-2">
          <label class="grid gap-0.5">
            The code it shows now
            <input
              class="field w-32 font-mono"
              name="code"
              inputmode="numeric"
              autocomplete="one-time-code"
              required
            />
          </label>
          <button class="btn btn-strong">Put in force</button>
        </form>
      </div>
    </div>
    {@render codesOf(begun.codes)}
  {:else if isOn}
    <p>In force: signing in takes your password and a code.</p>
    {#if isOurs && answer.newCodes !== undefined}{@render codesOf(answer.newCodes)}{/if}
    <form method="POST" use:enhance class="mt-2 flex items-end gap-2">
      <label class="grid gap-0.5">
        Your password
        <input class="field w-44" name="current" type="password" autocomplete="current-password" required />
      </label>
      <button class="btn" formaction="?/codes">Make new recovery codes</button>
      <button class="btn" formaction="?/endFactor">Give it up</button>
    </form>
  {:else}
    <form method="POST" action="?/begin" use:enhance class="flex items-end gap-2">
      <label class="grid gap-0.5">
        Your password
        <input class="field w-44" name="current" type="password" autocomplete="current-password" required />
      </label>
      <button class="btn">Begin</button>
    </form>
  {/if}
</section>
