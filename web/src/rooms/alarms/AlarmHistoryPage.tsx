import { addressOf, ENDPOINTS } from '@frustum/contract/endpoints'
import type { AlarmStatistics } from '@frustum/core'
import { Download } from 'lucide-react'
import { useState } from 'react'
import { Link } from 'react-router'
import { dayTime, duration, fixed, percent, plural, text } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { useAlarmHistoryQuery, useSiteQuery } from '../../store/api.ts'
import { useNow } from '../../store/clock.ts'

const DAY_MS = 86_400_000
const PERIODS = [
  [1, '24 hours'],
  [7, '7 days'],
  [30, '30 days'],
  [365, '1 year'],
] as const
/** Rows shown at first, and by which "Show more" grows the list. */
const ROWS = 100

/** The alarms of a period: how often, which most often, and each with its times. */
export function AlarmHistoryPage() {
  const [days, setDays] = useState<number>(7)
  const [rows, setRows] = useState(ROWS)
  const to = useNow(60_000)
  const span = { from: to - days * DAY_MS, to }
  const { data: site } = useSiteQuery()
  const { currentData, data, error, refetch } = useAlarmHistoryQuery(span)
  const history = currentData ?? data
  if (!history || !site) return <Fetching what="the alarm history" error={error} onRetry={refetch} />
  const { alarms, statistics } = history
  return (
    <div className="mx-auto w-full max-w-[1300px] px-5 py-5">
      <div className="flex flex-wrap items-center justify-between gap-x-8 gap-y-3 border-b border-base-300 pb-3">
        <h1 className="text-2xl">Alarm history</h1>
        <label className="flex items-center gap-2">
          <span className="soft">Period</span>
          <select
            className="h-11 border border-[color:var(--line)] bg-base-100 px-3"
            value={days}
            onChange={(e) => {
              setDays(Number(e.target.value))
              setRows(ROWS)
            }}
          >
            {PERIODS.map(([value, label]) => (
              <option key={value} value={value}>
                {label}
              </option>
            ))}
          </select>
        </label>
        <span className="flex flex-wrap items-center gap-x-6">
          <Link to="/alarms" className="inline-flex min-h-11 items-center underline underline-offset-4">
            Active alarms
          </Link>
          <a className="slant" href={addressOf(ENDPOINTS.alarmHistoryCsv, {}, span)} download>
            <Download className="size-4" aria-hidden="true" /> CSV
          </a>
        </span>
      </div>
      {alarms.length === 0 ? (
        <p className="py-8">No alarms in this period.</p>
      ) : (
        <>
          <Figures statistics={statistics} timeZone={site.timeZone} />
          <TopTen statistics={statistics} />
          <h2 className="pt-6 pb-1 text-lg">All alarms</h2>
          {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a table wider than the screen must scroll by keyboard */}
          <section className="overflow-x-auto" aria-label="All alarms" tabIndex={0}>
            <table className="w-full min-w-190 text-left">
              <thead className="soft">
                <tr className="border-b border-base-300">
                  {['Raised', 'Alarm', 'Acknowledged', 'Returned to normal', 'Duration'].map((h) => (
                    <th key={h} scope="col" className="py-2 pr-4 font-normal">
                      {h}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {alarms.slice(0, rows).map((alarm) => (
                  <tr key={alarm.id} className="border-b border-base-300">
                    <td className="py-2 pr-4 whitespace-nowrap">{dayTime(alarm.raisedAt, site.timeZone)}</td>
                    <td className="py-1 pr-4">
                      {alarm.position && (
                        <Link
                          to={`/probes/${alarm.position}/readings?from=${alarm.raisedAt - DAY_MS / 4}&to=${(alarm.returnedAt ?? to) + DAY_MS / 4}`}
                          className="font-bold underline underline-offset-4"
                        >
                          {alarm.position}
                        </Link>
                      )}{' '}
                      {text(alarm.sentence)}
                    </td>
                    <td className="pr-4">
                      {alarm.acknowledged
                        ? `${dayTime(alarm.acknowledged.at, site.timeZone)}, ${alarm.acknowledged.by}`
                        : '–'}
                    </td>
                    <td className="pr-4 whitespace-nowrap">
                      {alarm.returnedAt === null ? <strong>active</strong> : dayTime(alarm.returnedAt, site.timeZone)}
                    </td>
                    <td className="whitespace-nowrap">
                      {duration(((alarm.returnedAt ?? to) - alarm.raisedAt) / 60_000)}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
          {alarms.length > rows && (
            <button type="button" className="slant mt-4" onClick={() => setRows(rows + ROWS)}>
              Show more
            </button>
          )}
        </>
      )}
    </div>
  )
}

function Figures({ statistics, timeZone }: { statistics: AlarmStatistics; timeZone: string }) {
  const { count, perDay, peak, stale } = statistics
  const figures = [
    ['Raised', String(count), ''],
    ['Per day', fixed(perDay, 1), ''],
    ['Most in 10 minutes', String(peak?.count ?? 0), peak ? dayTime(peak.at, timeZone) : ''],
    ['Active for over a day', String(stale), ''],
  ] as const
  return (
    <dl className="flex flex-wrap gap-x-12 gap-y-3 py-4">
      {figures.map(([name, value, note]) => (
        <div key={name}>
          <dt className="text-sm soft">{name}</dt>
          <dd className="font-mono text-2xl">
            {value} <span className="font-sans text-sm soft">{note}</span>
          </dd>
        </div>
      ))}
    </dl>
  )
}

function TopTen({ statistics: { top } }: { statistics: AlarmStatistics }) {
  if (top.length === 0) return null
  const most = top[0]?.count ?? 1
  return (
    <section aria-label="Most frequent alarms">
      <h2 className="pb-1 text-lg">Most frequent</h2>
      <ol className="grid max-w-2xl gap-y-1">
        {top.map(({ kind, name, position, subject, isOfPair, count, share }) => (
          <li
            key={`${kind} ${position} ${subject}`}
            className="grid grid-cols-[minmax(0,1fr)_6rem_7rem] items-center gap-x-4"
          >
            <span className="truncate">
              {position && <strong>{position} </strong>}
              {name}
              {isOfPair && subject ? ` (${subject})` : ''}
            </span>
            <span aria-hidden="true" className="h-2.5 bg-base-200">
              <span className="block h-full bg-accent" style={{ width: `${(100 * count) / most}%` }} />
            </span>
            <span className="text-sm whitespace-nowrap">
              {plural(count, 'time')} <span className="soft">({percent(share)})</span>
            </span>
          </li>
        ))}
      </ol>
    </section>
  )
}
