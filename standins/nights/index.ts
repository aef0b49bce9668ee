export { type Night, NIGHTS, type NightStep, type NightTells } from './nights.ts'
export { playLive, stepWords } from './live.ts'
