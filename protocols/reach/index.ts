export { Networks, plainAddress, splitNetworks } from './networks.ts'
export {
  addressOf,
  connectFailure,
  type Endpoint,
  firstWords,
  openTcp,
  printable,
  resolveName,
} from './tcp.ts'
export {
  checkFingerprint,
  distrustFailure,
  type Handshake,
  OtherFingerprint,
  otherFingerprint,
  shakeHands,
  speaksTls,
  type Trust,
} from './tls.ts'
export { errorCode, errorWords, systemWords } from './words.ts'
export * from './destinations.ts'
export * from './few.ts'
