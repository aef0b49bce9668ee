export { watchSentence, type WatchCounts } from './sentence.ts'
export { type Foldable, foldByPart, foldCleared } from './fold.ts'
