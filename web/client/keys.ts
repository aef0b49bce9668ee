/** Keys that work anywhere; a screen adds its own. */
export interface KeyMap {
  readonly places: Readonly<Record<string, string>>
  /** Settles when the other screen stands, or when it could not be had. */
  readonly go: (href: string) => Promise<void>
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
 * `/` find, `?` help, `g` then a letter to go (any other letter is what it is alone), `j`/`k` along a list, `t` take, `f` unfold and `q` quiet.
 * List keys act on elements marked `data-row`; `t`, `f` and `q` press what is marked `data-take`, `data-fold` and
 * `data-quiet` in the focused row. Pressed on the way to a screen, they are meant for its list and wait for it: on
 * arrival the focus is set to the page, so what was focused before would be lost.
 */
export function keyHandler(map: KeyMap): (event: KeyboardEvent) => void {
  let isGoing = false
  let arriving: Promise<void> | null = null

  function setOut(href: string): void {
    const way = map
      .go(href)
      .catch(() => undefined)
      .then(() => {
        if (arriving === way) arriving = null
      })
    arriving = way
  }

  return (event) => {
    if (isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey) return
    const { key } = event
    const href = isGoing ? map.places[key] : undefined
    isGoing = href === undefined && key === 'g'
    if (href !== undefined) setOut(href)
    else if (isGoing) return
    else if (key === '?') map.help()
    else if (key === '/') {
      event.preventDefault()
      map.find()
    } else if (arriving === null) actOnList(key)
    else void arriving.then(() => actOnList(key))
  }
}

const MARKS: Readonly<Record<string, string>> = { t: '[data-take]', f: '[data-fold]', q: '[data-quiet]' }

function actOnList(key: string): void {
  const mark = MARKS[key]
  if (key === 'j' || key === 'k') step(key === 'j' ? 1 : -1)
  else if (mark !== undefined)
    document.activeElement?.closest('[data-row]')?.querySelector<HTMLElement>(mark)?.click()
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
