/** Ids of the series that an address picks: `r=3,17,20`. What is no number is passed over. */
export const seriesIn = (url: URL): number[] =>
  (url.searchParams.get('r') ?? '')
    .split(',')
    .filter((word) => /^\d{1,9}$/.test(word))
    .map(Number)
