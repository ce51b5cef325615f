import { days, say } from '../quantities/sentence.ts'
import type { Finding, LotFacts } from './finding.ts'

/** What the lots say of the points taken with them, of whatever kind the sensor is. */
export function findingsOfLots(lots: readonly (LotFacts | undefined)[]): Finding[] {
  const found: Finding[] = []
  for (const lot of lots) {
    if (lot?.expired) {
      found.push({
        code: 'lot-expired',
        severity: 'warn',
        sentence: say`Lot ${lot.lot} expired ${days(lot.daysOver)} ago.`,
        advice: 'Repeat that point with a fresh lot before you trust the result.',
        numbers: { daysOver: lot.daysOver },
      })
    } else if (lot?.openTooLong) {
      found.push({
        code: 'lot-open-too-long',
        severity: 'warn',
        sentence: say`Lot ${lot.lot} has been open ${days(lot.daysOver)} longer than it keeps.`,
        advice: 'Open a fresh bottle and repeat that point.',
        numbers: { daysOver: lot.daysOver },
      })
    }
  }
  return found
}
