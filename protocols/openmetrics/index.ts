export { parseSample, type Sample, sampleHead, sampleTime, sampleValue } from './codec.ts'
