const KNOWN: readonly (readonly [name: string, pattern: RegExp])[] = [
  ['Edge', /\bEdg\//],
  ['Firefox', /\bFirefox\//],
  ['Chromium', /\b(Chrome|Chromium|HeadlessChrome)\//],
  ['Safari', /\bSafari\//],
]
const SYSTEMS: readonly (readonly [name: string, pattern: RegExp])[] = [
  ['Android', /\bAndroid\b/],
  ['iOS', /\b(iPhone|iPad)\b/],
  ['Windows', /\bWindows\b/],
  ['macOS', /\bMac OS X\b/],
  ['Linux', /\bLinux\b/],
]

/** A browser as people know it, of what it says of itself (RFC 9110 §10.1.5), as `Firefox on Linux`. */
export function browserName(userAgent: string | null): string {
  const find = (all: typeof KNOWN): string | undefined =>
    all.find(([, pattern]) => pattern.test(userAgent ?? ''))?.[0]
  const [browser, system] = [find(KNOWN), find(SYSTEMS)]
  if (browser === undefined) return 'something else'
  return system === undefined ? browser : `${browser} on ${system}`
}
