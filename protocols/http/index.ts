export {
  postJson,
  endpointOf,
  FetchFailure,
  get,
  getJson,
  type HttpTarget,
  openAgent,
  remove,
  type Reply,
} from './fetch.ts'
