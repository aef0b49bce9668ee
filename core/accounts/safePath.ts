/** Only a path of our own is followed after signing in. */
export const safePath = (to: string | null): string => (to !== null && /^\/(?![/\\])/.test(to) ? to : '/')
