import type { Finding, LotFacts } from './finding.ts'

/** What the lots say of the points taken with them, of whatever kind the sensor is. */
export function findingsOfLots(lots: readonly (LotFacts | undefined)[]): Finding[] {
  const found: Finding[] = []
  for (const lot of lots) {
    if (lot?.expired) {
      found.push({
        code: 'lot-expired',
        severity: 'warn',
        sentence: `Lot ${lot.lot} expired ${lot.daysOver} ${lot.daysOver === 1 ? 'day' : 'days'} ago.`,
        advice: 'Repeat that point with a fresh lot before you trust the result.',
        numbers: { daysOver: lot.daysOver },
      })
    } else if (lot?.openTooLong) {
      found.push({
        code: 'lot-open-too-long',
        severity: 'warn',
        sentence: `Lot ${lot.lot} has been open ${lot.daysOver} days longer than it keeps.`,
        advice: 'Open a fresh bottle and repeat that point.',
        numbers: { daysOver: lot.daysOver },
      })
    }
  }
  return found
}
