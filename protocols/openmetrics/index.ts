export { parseSample, type Sample, sampleHead, sampleTime, sampleValue } from './codec.ts'
export { DocumentError, parseDocument } from './document.ts'
export type { DocumentForm, Family } from './shape.ts'
export { findingsOfDocument, formOf, metricsMapping, scrape } from './driver.ts'
