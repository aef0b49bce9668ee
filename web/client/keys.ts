/** Keys that work anywhere; a screen adds its own. */
export interface KeyMap {
  readonly places: Readonly<Record<string, string>>
  readonly go: (href: string) => void
  readonly find: () => void
  readonly help: () => void
}

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    /^(TEXTAREA|SELECT)$/.test(target.tagName) ||
    target.matches('[aria-haspopup="listbox"],[role="spinbutton"],[role="option"],[role="menuitem"]') ||
    (target instanceof HTMLInputElement && !/^(checkbox|radio|button)$/.test(target.type)))

/**
 * `/` find, `?` help, `g` then a letter to go, `j`/`k` along a list `t` take, `f` unfold and `q` quiet.
 * List keys act on elements marked `data-row`; `t`, `f` and `q` press what is marked `data-take`, `data-fold` and
 * `data-quiet` in the focused row.
 */
export function keyHandler(map: KeyMap): (event: KeyboardEvent) => void {
  let isGoing = false
  return (event) => {
    if (isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey) return
    const { key } = event
    if (isGoing) {
      isGoing = false
      const href = map.places[key]
      if (href !== undefined) map.go(href)
      return
    }
    if (key === 'g') isGoing = true
    else if (key === '?') map.help()
    else if (key === 'j' || key === 'k') step(key === 'j' ? 1 : -1)
    else if (key === 't')
      document.activeElement?.closest('[data-row]')?.querySelector<HTMLElement>('[data-take]')?.click()
    else if (key === 'f')
      document.activeElement?.closest('[data-row]')?.querySelector<HTMLElement>('[data-fold]')?.click()
    else if (key === 'q')
      document.activeElement?.closest('[data-row]')?.querySelector<HTMLElement>('[data-quiet]')?.click()
    else if (key === '/') {
      event.preventDefault()
      map.find()
    }
  }
}

function step(by: number): void {
  const rows = [...document.querySelectorAll<HTMLElement>('[data-row]')]
  const here = rows.findIndex((row) => row.contains(document.activeElement))
  const next =
    rows[here === -1 ? (by > 0 ? 0 : rows.length - 1) : Math.min(rows.length - 1, Math.max(0, here + by))]
  const target = next?.matches('a,button,[tabindex]')
    ? next
    : next?.querySelector<HTMLElement>('a,button:not([role="checkbox"])')
  target?.focus()
}
