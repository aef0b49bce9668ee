export { endpointOf, FetchFailure, get, getJson, type HttpTarget, openAgent, type Reply } from './fetch.ts'
