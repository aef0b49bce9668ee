import { SimUps } from '../standins/model/ups.ts'
import { UPS_COMMUNITY, UPS_USER, UPSES } from '../standins/site/index.ts'
import { startUpsAgent } from '../standins/ups/agent.ts'

// UPS agents on ports one after the other, for the bench of many sources.
const [first, count] = process.argv.slice(2).map(Number)
for (let index = 0; index < count!; index += 1)
  startUpsAgent({
    ups: new SimUps(UPSES[index % UPSES.length]!, Date.now()),
    port: first! + index,
    community: UPS_COMMUNITY,
    user: UPS_USER,
  })
