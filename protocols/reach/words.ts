import { getSystemErrorName } from 'node:util'

/** The system's word for an error, looked for in its causes, too. */
export function errorCode(error: unknown): string {
  if (!(error instanceof Error)) return ''
  const code = 'code' in error && typeof error.code === 'string' ? error.code : ''
  if (code !== '') return code
  if (error instanceof AggregateError && error.errors.length > 0) return errorCode(error.errors[0])
  return error.cause === undefined ? '' : errorCode(error.cause)
}

/** What the system means by its words for errors (POSIX.1-2017 <errno.h>, RFC 3493 §6.1; the libraries' own beside them). */
const WORDS: Readonly<Record<string, string>> = {
  EACCES: 'this machine does not allow it',
  EADDRNOTAVAIL: 'this machine has no address for it',
  EAI_AGAIN: 'the resolver does not answer',
  ECONNABORTED: 'the connection was given up',
  ECONNREFUSED: 'nothing listens on this port',
  ECONNRESET: 'the far side broke it off',
  EDNS: 'the name is not known to the resolver',
  EHOSTDOWN: 'the host is down',
  EHOSTUNREACH: 'no way to this host',
  ENETDOWN: 'the network is down',
  ENETUNREACH: 'no way to this network',
  ENOENT: 'there is no such file',
  ENOTDIR: 'there is no such file',
  ENOTFOUND: 'the name is not known to the resolver',
  EPERM: 'this machine does not allow it',
  EPIPE: 'the far side had closed it',
  EPROTO: 'it does not speak TLS as we do',
  ETIMEDOUT: 'nothing came back in time',
  UND_ERR_BODY_TIMEOUT: 'it stopped in the middle',
  UND_ERR_CONNECT_TIMEOUT: 'nothing came back in time',
  UND_ERR_HEADERS_TIMEOUT: 'no answer came in time',
  UND_ERR_SOCKET: 'the far side closed it',
}

/** What happened, from the system's word for it; the word itself where nobody knows a better one. */
export const systemWords = (code: string): string => WORDS[code] ?? code

/** What happened, in words: those for the system's error where there is one below it, else the message. */
export function errorWords(error: unknown): string {
  if (!(error instanceof Error)) return String(error)
  const code = errorCode(error)
  if (code in WORDS) return WORDS[code]!
  const named = systemName(error)
  return named in WORDS ? WORDS[named]! : error.message || code
}

/** A library may put its own code in the place of the system's, and leave the number beside it. */
function systemName(error: Error): string {
  if (!('errno' in error) || typeof error.errno !== 'number' || error.errno >= 0) return ''
  try {
    return getSystemErrorName(error.errno)
  } catch {
    return ''
  }
}
