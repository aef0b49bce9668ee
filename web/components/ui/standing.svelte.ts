import { untrack } from 'svelte'

/**
 * What stands in a control when nobody has changed it: at first, and whenever it is kept anew. A page asks again for what
 * it shows all the time; what somebody has typed or chosen meanwhile stays.
 * @param kept what the page says now; `undefined` of a control whose value is bound
 */
export class Standing<Value> {
  value = $state<Value>() as Value

  constructor(
    first: Value,
    kept: () => Value | null | undefined,
    control: { readonly get: () => Value | undefined; readonly put: (value: Value) => void },
  ) {
    this.value = first
    if (control.get() === undefined && first !== undefined) control.put(first)
    $effect(() => {
      const next = kept()
      untrack(() => {
        if (next === null || next === undefined || next === this.value) return
        if (control.get() === this.value) control.put(next)
        this.value = next
      })
    })
  }
}
