import { tz } from '@date-fns/tz'
import type { ReportView, ReportVisit } from '@frustum/contract'
import { DAY_MS, type Quantity, quantityText, render, WORK_WORDS } from '@frustum/core'
import { format } from 'date-fns'

/** The tables of a report, as paper and files have them: each with its columns and rows as texts. */

export interface ReportTable {
  title: string
  /** What is said where there are no rows. */
  none: string
  columns: readonly string[]
  rows: readonly (readonly (string | number | Quantity)[])[]
}

const dayText = (at: number, timeZone: string): string => format(at, 'd MMM yyyy', { in: tz(timeZone) })
export const timeText = (at: number, timeZone: string): string => format(at, 'd MMM yyyy HH:mm', { in: tz(timeZone) })

const error = (q: Quantity | null): Quantity | string => q ?? 'not read'

/** A cell as it is read. */
export const cellText = (cell: string | number | Quantity): string =>
  typeof cell === 'object' ? quantityText(cell) : String(cell)

const FOUND = { within: 'within', outside: 'OUTSIDE', 'not read': 'not read' } as const

const work = (v: ReportVisit): string =>
  v.outcome === 'abandoned' ? 'Ended without a result' : v.work ? WORK_WORDS[v.work] : ''

/** A tolerance stands on both sides: without the sign of a difference. */
const halfWidth = ({ difference: _, ...q }: Quantity): Quantity => q

/** The last day of a span that ends with its midnight. */
export const lastDay = (end: number, timeZone: string): string => dayText(end - 1, timeZone)

export function reportTables(report: ReportView): ReportTable[] {
  const { timeZone } = report
  const day = (at: number) => dayText(at, timeZone)
  const span = `${day(report.from)} to ${lastDay(report.to, timeZone)}`
  const outside = report.visits.filter((v) => v.found === 'outside')
  return [
    {
      title: `All sensors on ${lastDay(report.on, timeZone)}`,
      none: 'No sensor was in use.',
      columns: [
        'Position',
        'Place',
        'Measures',
        'Serial number',
        'Last visit',
        'By',
        'As found',
        'Tolerance, ±',
        'Found',
        'As left',
        'Next',
      ],
      rows: report.status.map(({ last, next, ...s }) => [
        s.position,
        [s.place, s.spot].filter(Boolean).join(', '),
        s.quantity,
        s.serialNumber,
        last ? day(last.at) : 'none',
        last?.operator ?? '',
        last ? error(last.asFound) : '',
        last ? halfWidth(last.tolerance) : '',
        last ? FOUND[last.found] : '',
        last ? error(last.asLeft) : '',
        next ? `${day(next.at)}${next.made ? ' (made)' : next.at < report.on - DAY_MS ? ' OVERDUE' : ''}` : '',
      ]),
    },
    {
      title: `Visits, ${span}`,
      none: 'None.',
      columns: [
        'When',
        'Position',
        'Serial number',
        'What',
        'Done',
        'As found',
        'Found',
        'As left',
        'By',
        'Corrections',
      ],
      rows: report.visits.map((v) => [
        timeText(v.at, timeZone),
        v.position,
        v.serialNumber,
        v.name,
        work(v),
        error(v.asFound),
        FOUND[v.found],
        error(v.asLeft),
        v.operator,
        v.corrections > 0 ? v.corrections : '',
      ]),
    },
    {
      title: `Found out of tolerance, ${span}`,
      none: 'None.',
      columns: [
        'When',
        'Position',
        'As found',
        'Tolerance, ±',
        'Days outside',
        'Logged readings',
        'Rating of these',
        'They are to be',
      ],
      rows: outside.map((v) => [
        day(v.at),
        v.position,
        error(v.asFound),
        halfWidth(v.tolerance),
        v.corrected ? Number(v.corrected.days.toFixed(1)) : 'cannot be said',
        v.corrected ? v.corrected.affected : '',
        v.corrected?.rating ?? '',
        v.corrected?.action ?? '',
      ]),
    },
    {
      title: `Missed dates, ${span}`,
      none: 'None: no sensor went longer without a visit than its rules allowed.',
      columns: ['Position', 'Place', 'Visit before', 'Longest interval', 'Due', 'Visited', 'Days late'],
      rows: report.missed.map((m) => [
        m.position,
        m.place,
        day(m.from),
        `${m.allowedDays} days${m.byAuthority ? ' (authority)' : ''}`,
        day(m.due),
        m.made === null ? 'not yet' : day(m.made),
        m.lateDays,
      ]),
    },
    {
      title: `Changes of positions and their rules, ${span}`,
      none: 'None.',
      columns: ['When', 'Position', 'Change', 'Why', 'By'],
      rows: report.changes.map((c) => [timeText(c.at, timeZone), c.position, render(c.what), c.why ?? '', c.operator]),
    },
    {
      title: `Who made visits, ${span}`,
      none: 'Nobody.',
      columns: ['Name', 'Visits'],
      rows: report.people.map((p) => [p.name, p.visits]),
    },
  ]
}
