export {
  type PortsToTry,
  recognise,
  type Recognised,
  type TriedCredential,
  USUAL_PORTS,
} from './recognise.ts'
