/** Things by a key, in the order in which the keys came. */
export function byKey<Key, Of>(all: Iterable<Of>, keyOf: (each: Of) => Key): Map<Key, Of[]> {
  const groups = new Map<Key, Of[]>()
  for (const each of all) {
    const key = keyOf(each)
    const known = groups.get(key)
    if (known === undefined) groups.set(key, [each])
    else known.push(each)
  }
  return groups
}
