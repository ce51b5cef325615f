/** What belongs together by a key, in the order in which it came. */
export function grouped<T, K>(list: readonly T[], keyOf: (one: T) => K): Map<K, T[]> {
  const groups = new Map<K, T[]>()
  for (const one of list) {
    const key = keyOf(one)
    const of = groups.get(key)
    if (of) of.push(one)
    else groups.set(key, [one])
  }
  return groups
}
