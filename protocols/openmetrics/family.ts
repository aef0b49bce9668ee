import {
  type DocumentForm,
  type DocumentSample,
  type Family,
  type FamilyType,
  LABEL_OF_TYPE,
  type Labels,
} from './shape.ts'

const SUFFIXES: Readonly<Record<FamilyType, readonly string[]>> = {
  counter: ['_total', '_created'],
  gauge: [''],
  histogram: ['_bucket', '_count', '_sum', '_created'],
  gaugehistogram: ['_bucket', '_gcount', '_gsum'],
  stateset: [''],
  info: ['_info'],
  summary: ['', '_count', '_sum', '_created'],
  unknown: [''],
}

/** What is put after the name of a family to name its samples. */
export function suffixesOf(type: FamilyType, form: DocumentForm): readonly string[] {
  if (form === 'openmetrics') return SUFFIXES[type]
  return type === 'counter' || type === 'info' ? [''] : SUFFIXES[type].filter((each) => each !== '_created')
}

interface Wrong {
  readonly line: number
  readonly reason: string
}
const wrongAt = ({ line }: DocumentSample, reason: string): Wrong => ({ line, reason })

/**
 * What is wrong with a family that is complete (OpenMetrics 1.0, “Metric Types” and “MetricPoint”); `null` when nothing
 * is.
 */
export function finishFamily(family: Family): Wrong | null {
  const [first] = family.samples
  if (family.unit !== '' && first !== undefined && (family.type === 'info' || family.type === 'stateset'))
    return wrongAt(first, `${family.name} is ${family.type}, which has no unit`)
  const closed = new Set<string>()
  let point: DocumentSample[] = []
  let open: string | null = null
  const endPoint = (): Wrong | null => {
    const wrong = point.length === 0 ? null : wrongOfPoint(family, point)
    point = []
    return wrong
  }
  for (const sample of family.samples) {
    const wrong = wrongOfSample(family, sample)
    if (wrong !== null) return wrong
    const metric = JSON.stringify(ownLabels(family, sample.labels))
    const last = point.at(-1)
    if (metric !== open) {
      if (closed.has(metric))
        return wrongAt(sample, `the samples of one metric of ${family.name} are not together`)
      const before = endPoint()
      if (before !== null) return before
      if (open !== null) closed.add(open)
      open = metric
    } else if (last !== undefined && last.atMs !== sample.atMs) {
      if (last.atMs === null || sample.atMs === null)
        return wrongAt(sample, `some samples of one metric of ${family.name} have a time and others none`)
      if (sample.atMs < last.atMs) return wrongAt(sample, `the time of ${sample.name} goes back`)
      const before = endPoint()
      if (before !== null) return before
    }
    point.push(sample)
  }
  return endPoint()
}

function ownLabels(family: Family, labels: Labels): [string, string][] {
  const label = LABEL_OF_TYPE[family.type]
  const form = label === 'itself' ? family.name : label
  return [...labels].filter(([name]) => name !== form).sort(([a], [b]) => (a < b ? -1 : 1))
}

function wrongOfSample({ name, type }: Family, sample: DocumentSample): Wrong | null {
  const { labels, value } = sample
  const suffix = sample.name.slice(name.length)
  const isCount = ['_total', '_count', '_bucket', '_gcount', '_sum'].includes(suffix)
  if (isCount && (Number.isNaN(value) || value < 0))
    return wrongAt(sample, `${sample.name} is ${value}: a count is not less than 0`)
  if (suffix === '_bucket' && boundOf(labels.get('le')) === null)
    return wrongAt(sample, `${sample.name} has no label le with a number`)
  if (type === 'summary' && suffix === '') {
    const quantile = boundOf(labels.get('quantile'))
    if (quantile === null || quantile < 0 || quantile > 1)
      return wrongAt(sample, `${sample.name} has no label quantile between 0 and 1`)
    if (value < 0) return wrongAt(sample, `a quantile of ${name} is less than 0`)
  }
  if (type === 'info' && value !== 1) return wrongAt(sample, `${sample.name} is ${value}: information is 1`)
  if (type === 'stateset') {
    if (!labels.has(name)) return wrongAt(sample, `${name} has no label ${name} with its state`)
    if (value !== 0 && value !== 1) return wrongAt(sample, `a state of ${name} is ${value}, not 0 or 1`)
  }
  return null
}

function boundOf(text: string | undefined): number | null {
  if (text === undefined || text === '') return null
  if (text === '+Inf') return Infinity
  const value = Number(text)
  return Number.isNaN(value) ? null : value
}

/** Samples of one metric at one instant. */
function wrongOfPoint(family: Family, point: readonly DocumentSample[]): Wrong | null {
  const seen = new Set<string>()
  for (const sample of point) {
    const key = JSON.stringify([sample.name, ...[...sample.labels].sort(([a], [b]) => (a < b ? -1 : 1))])
    if (seen.has(key)) return wrongAt(sample, `${sample.name} is there a second time with the same labels`)
    seen.add(key)
  }
  if (family.type === 'counter' && !point.some(({ name }) => name.endsWith('_total')))
    return wrongAt(point[0]!, `${family.name} is a counter without ${family.name}_total`)
  return family.type === 'histogram' || family.type === 'gaugehistogram'
    ? wrongOfBuckets(family, point)
    : null
}

function wrongOfBuckets({ name }: Family, point: readonly DocumentSample[]): Wrong | null {
  const buckets = point.filter((sample) => sample.name === `${name}_bucket`)
  let [bound, count] = [-Infinity, -Infinity]
  for (const sample of buckets) {
    const next = boundOf(sample.labels.get('le'))!
    if (next <= bound) return wrongAt(sample, `the buckets of ${name} are not in rising order`)
    if (sample.value < count) return wrongAt(sample, `a bucket of ${name} holds less than the one before it`)
    bound = next
    count = sample.value
  }
  if (bound !== Infinity) return wrongAt(point.at(-1)!, `${name} has no bucket with le="+Inf"`)
  const total = point.find((sample) => sample.name === `${name}_count` || sample.name === `${name}_gcount`)
  if (total !== undefined && total.value !== count)
    return wrongAt(total, `${total.name} is ${total.value}, and the bucket +Inf holds ${count}`)
  return null
}
