export { decodeExport, encodeExport, PayloadError, type ExportRequest, type ExportFormat } from './codec.ts'
export { momentsOf, type Moment } from './findings.ts'
