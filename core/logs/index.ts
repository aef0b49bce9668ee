export { storable } from './storable.ts'
