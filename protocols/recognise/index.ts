export { type PortsToTry, recognise, type TriedCredential, USUAL_PORTS } from './recognise.ts'
