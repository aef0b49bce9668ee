export { watchSentence, type WatchCounts } from './sentence.ts'
export { type Foldable, foldByPart } from './fold.ts'
