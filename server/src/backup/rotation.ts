import { tz } from '@date-fns/tz'
import { format } from 'date-fns'

/** How many days, weeks and months back one backup each is kept. */
export interface Keep {
  keepDays: number
  keepWeeks: number
  keepMonths: number
}

/**
 * The backups that are kept: the last of each of the newest days, ISO weeks and months that have one, and the newest
 * in any case.
 * @param at epoch ms of each, in any order
 */
export function keptBackups(at: readonly number[], keep: Keep, timeZone: string): Set<number> {
  const newestFirst = [...at].sort((a, b) => b - a)
  const last = (pattern: string, count: number): number[] => {
    const spans = new Map<string, number>()
    for (const time of newestFirst) {
      const span = format(time, pattern, { in: tz(timeZone) })
      if (!spans.has(span)) spans.set(span, time)
    }
    return [...spans.values()].slice(0, count)
  }
  return new Set([
    ...newestFirst.slice(0, 1),
    ...last('yyyy-MM-dd', keep.keepDays),
    ...last("RRRR-'W'II", keep.keepWeeks),
    ...last('yyyy-MM', keep.keepMonths),
  ])
}
