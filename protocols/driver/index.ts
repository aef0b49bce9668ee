export type { Driver, Reach, Target } from './driver.ts'
export { hostAddress, type Protocol, type SourceForm, trustSettings, urlAddress, wholeField } from './form.ts'
export { sayInputWords } from './inputWords.ts'
