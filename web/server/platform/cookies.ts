import type { Cookies } from '@sveltejs/kit'

/** Passes on the cookies of another answer (`Set-Cookie` lines, RFC 6265 §4.1). */
export function passCookies(cookies: Cookies, lines: readonly string[]): void {
  for (const line of lines) {
    const [pair = '', ...rest] = line.split(';').map((word) => word.trim())
    const [name = '', value = ''] = [pair.slice(0, pair.indexOf('=')), pair.slice(pair.indexOf('=') + 1)]
    const attribute = (wanted: 'Max-Age' | 'Path' | 'HttpOnly' | 'Secure'): string | undefined => {
      const found = rest.find((word) => word.toLowerCase().split('=')[0] === wanted.toLowerCase())
      return found === undefined ? undefined : (found.split('=')[1] ?? '')
    }
    const maxAge = attribute('Max-Age')
    cookies.set(name, decodeURIComponent(value), {
      path: attribute('Path') ?? '/',
      httpOnly: attribute('HttpOnly') !== undefined,
      secure: attribute('Secure') !== undefined,
      sameSite: 'lax',
      ...(maxAge === undefined ? {} : { maxAge: Number(maxAge) }),
    })
  }
}
