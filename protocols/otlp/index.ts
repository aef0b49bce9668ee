export {
  decodeAnswer,
  decodeExport,
  encodeAnswer,
  encodeExport,
  type ExportAnswer,
  formatOf,
  PayloadError,
  type ExportRequest,
  type ExportFormat,
} from './codec.ts'
export { momentsOf, type Moment, readExport, type ReadExport } from './findings.ts'
export { descriptor as otlpDescriptor } from './descriptor.ts'
export { assertWithin, OF_SOURCES, OF_STRANGERS, type PushBounds, TooMuchError } from './bounds.ts'
