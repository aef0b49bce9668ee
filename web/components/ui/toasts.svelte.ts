/** What was done, or was refused, said at the edge of the screen without moving what stands there. */
export interface Said {
  readonly text: string
  readonly kind?: 'done' | 'problem'
}

class Toasts {
  /** Whether anything was ever said: before that the part that shows it is not loaded. */
  isWanted = $state(false)

  async say({ text, kind = 'done' }: Said): Promise<void> {
    this.isWanted = true
    const { toast } = await import('svelte-sonner')
    // What failed stays until somebody closes it.
    if (kind === 'problem') toast.error(text, { duration: Infinity })
    else toast(text)
  }
}

export const toasts = new Toasts()
