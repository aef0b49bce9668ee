export { getJson, type HttpTarget, openAgent, FetchFailure } from './fetch.ts'
