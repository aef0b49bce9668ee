export {
  postJson,
  endpointOf,
  FetchFailure,
  get,
  getJson,
  type HttpTarget,
  openAgent,
  type Reply,
} from './fetch.ts'
