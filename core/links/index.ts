export {
  drawPath,
  feedSentence,
  type Feeds,
  feedsOf,
  isNeededFirst,
  needOf,
  NODE_HEIGHT,
  NODE_WIDTH,
  type Path,
  type PathEdge,
  type PathGear,
  type PathGraph,
  type PathLink,
  type PathNode,
  pathOf,
} from './path.ts'
export { type CarryFault, faultWords, pathSentences, withFaults } from './pathSentences.ts'
export { linksSeenFrom, type LinkSeen, type LinkWithEnds } from './seenFrom.ts'
