import type { ReportStatus, ReportView, ReportVisit } from '@frustum/contract'
import { addressOf, ENDPOINTS } from '@frustum/contract/endpoints'
import { DAY_MS, type Quantity, WORK_WORDS } from '@frustum/core'
import { Download, Printer } from 'lucide-react'
import { Link, useSearchParams } from 'react-router'
import { day, dayTime, plural, text } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { useReportQuery } from '../../store/api.ts'

const ASKED = ['on', 'from', 'to'] as const
const LABELS = { on: 'Status on', from: 'Span from', to: 'to' } as const

/** An ISO date as a browser's field for dates has it. */
const isoDay = (at: number, timeZone: string) => new Intl.DateTimeFormat('sv-SE', { timeZone }).format(at)

/** What an inspector asks for: how all sensors stood on a day, and what happened in a span. */
export function ReportPage() {
  const [asked, setAsked] = useSearchParams()
  const query = Object.fromEntries(ASKED.flatMap((key) => (asked.get(key) ? [[key, asked.get(key) as string]] : [])))
  const { data: report, error, refetch, isFetching } = useReportQuery(query, { refetchOnMountOrArgChange: true })
  if (!report) return <Fetching what="the report" error={error} onRetry={refetch} />
  const { timeZone } = report
  // Spans end with the midnight after their last day.
  const shown = {
    on: isoDay(report.on - 1, timeZone),
    from: isoDay(report.from, timeZone),
    to: isoDay(report.to - 1, timeZone),
  }
  const ask = (key: (typeof ASKED)[number], value: string) => {
    if (value) setAsked({ ...shown, [key]: value }, { replace: true })
  }
  return (
    <div className="mx-auto w-full max-w-[1300px] px-5 py-5 print:max-w-none print:px-0">
      <div className="flex flex-wrap items-end justify-between gap-x-6 gap-y-3 border-b border-base-300 pb-3">
        <div>
          <h1 className="text-2xl">Sensors of {report.site}</h1>
          <p className="soft">
            Made {dayTime(report.madeAt, timeZone)}. Visits stand as their records say, with the tolerances that held
            then.
          </p>
        </div>
        <div className="no-print flex flex-wrap items-end gap-4">
          {ASKED.map((key) => (
            <label key={key} className="block">
              <span className="block text-sm font-bold">{LABELS[key]}</span>
              <input
                type="date"
                className="min-h-11 border border-[color:var(--line)] bg-base-100 px-2"
                value={shown[key]}
                onChange={(e) => ask(key, e.target.value)}
              />
            </label>
          ))}
          <a className="slant" href={addressOf(ENDPOINTS.reportPdf, {}, shown)} download>
            <Download className="size-5" aria-hidden="true" /> PDF
          </a>
          <a className="slant slant-plain" href={addressOf(ENDPOINTS.reportCsv, {}, shown)} download>
            CSV
          </a>
          <button type="button" className="slant slant-plain" onClick={() => window.print()}>
            <Printer className="size-5" aria-hidden="true" /> Print
          </button>
        </div>
      </div>
      {error !== undefined && <Fetching what="the report" error={error} onRetry={refetch} />}
      <div aria-busy={isFetching}>
        <Status report={report} />
        <Visits report={report} />
        <Outside report={report} />
        <Missed report={report} />
        <Changed report={report} />
        <People report={report} />
      </div>
    </div>
  )
}

interface TableProps {
  title: string
  none: string
  columns: readonly string[]
  children: React.ReactNode[]
}

function Table({ title, none, columns, children }: TableProps) {
  return (
    <section className="pt-6">
      <h2 className="pb-2 text-lg">{title}</h2>
      {children.length === 0 ? (
        <p className="soft">{none}</p>
      ) : (
        // biome-ignore lint/a11y/noNoninteractiveTabindex: a wide table is scrolled by keys, too
        <section className="overflow-x-auto" aria-label={title} tabIndex={0}>
          <table className="w-full text-left text-sm [&_td]:py-1.5 [&_td]:pr-4 [&_td]:align-top [&_th]:pr-4 [&_th]:pb-1">
            <thead>
              <tr className="border-b border-[color:var(--line)]">
                {columns.map((c) => (
                  <th key={c} scope="col" className="whitespace-nowrap">
                    {c}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody className="[&_tr]:border-b [&_tr]:border-base-300">{children}</tbody>
          </table>
        </section>
      )}
    </section>
  )
}

const figure = (q: Quantity | null) =>
  q ? <span className="font-mono whitespace-nowrap">{text(q)}</span> : <span className="soft">not read</span>
const within = (q: Quantity) => <span className="font-mono whitespace-nowrap">±{text(q).replace(/^\+/, '')}</span>

function Found({ found }: { found: ReportVisit['found'] }) {
  if (found === 'outside') return <strong className="whitespace-nowrap text-error">outside</strong>
  return <span className={found === 'within' ? '' : 'soft'}>{found}</span>
}

function Status({ report: { status, on, timeZone } }: { report: ReportView }) {
  const nextText = (next: ReportStatus['next']) => {
    if (!next) return ''
    const overdue = !next.made && next.at < on - DAY_MS
    return (
      <>
        {day(next.at, timeZone)} {next.made && '(made)'}
        {overdue && <strong className="block text-error">overdue</strong>}
      </>
    )
  }
  return (
    <Table
      title={`All sensors on ${day(on - 1, timeZone)}`}
      none="No sensor was in use."
      columns={[
        'Position',
        'Place',
        'Measures',
        'Last visit',
        'By',
        'As found',
        'Tolerance',
        'Found',
        'As left',
        'Next',
      ]}
    >
      {status.map((s) => (
        <tr key={`${s.position} ${s.serialNumber}`}>
          <td className="font-bold whitespace-nowrap">
            {s.position}
            {s.serialNumber && <span className="block text-xs font-normal soft">{s.serialNumber}</span>}
          </td>
          <td>{[s.place, s.spot].filter(Boolean).join(', ')}</td>
          <td>{s.quantity}</td>
          {s.last ? (
            <>
              <td className="whitespace-nowrap">
                <Link to={`/ledger/${s.last.id}`} className="underline underline-offset-4">
                  {day(s.last.at, timeZone)}
                </Link>
              </td>
              <td className="whitespace-nowrap">{s.last.operator}</td>
              <td>{figure(s.last.asFound)}</td>
              <td>{within(s.last.tolerance)}</td>
              <td>
                <Found found={s.last.found} />
              </td>
              <td>{figure(s.last.asLeft)}</td>
            </>
          ) : (
            <td colSpan={6} className="soft">
              no visit until then
            </td>
          )}
          <td className="whitespace-nowrap">{nextText(s.next)}</td>
        </tr>
      ))}
    </Table>
  )
}

const done = (v: ReportVisit) =>
  v.outcome === 'abandoned' ? 'Ended without a result' : v.work ? WORK_WORDS[v.work] : ''

function Visits({ report: { visits, timeZone } }: { report: ReportView }) {
  return (
    <Table
      title={`Visits in the span: ${visits.length}`}
      none="None."
      columns={['When', 'Position', 'What', 'Done', 'As found', 'Found', 'As left', 'By', 'Corrections']}
    >
      {visits.map((v) => (
        <tr key={v.id}>
          <td className="whitespace-nowrap">
            <Link to={`/ledger/${v.id}`} className="underline underline-offset-4">
              {dayTime(v.at, timeZone)}
            </Link>
          </td>
          <td className="font-bold whitespace-nowrap">{v.position}</td>
          <td>{v.name}</td>
          <td>{done(v)}</td>
          <td>{figure(v.asFound)}</td>
          <td>
            <Found found={v.found} />
          </td>
          <td>{figure(v.asLeft)}</td>
          <td className="whitespace-nowrap">{v.operator}</td>
          <td>{v.corrections > 0 && v.corrections}</td>
        </tr>
      ))}
    </Table>
  )
}

function Outside({ report: { visits, timeZone } }: { report: ReportView }) {
  const outside = visits.filter((v) => v.found === 'outside')
  return (
    <Table
      title="Found out of tolerance"
      none="None."
      columns={['When', 'Position', 'As found', 'Tolerance', 'Logged before it', 'Rating', 'To be']}
    >
      {outside.map((v) => (
        <tr key={v.id}>
          <td className="whitespace-nowrap">{day(v.at, timeZone)}</td>
          <td className="font-bold whitespace-nowrap">{v.position}</td>
          <td>{figure(v.asFound)}</td>
          <td>{within(v.tolerance)}</td>
          {v.corrected ? (
            <>
              <td>
                <Link to={`/probes/${v.position}/past/${v.id}`} className="underline underline-offset-4">
                  {plural(v.corrected.affected, 'reading')} in {v.corrected.days.toFixed(1)} days
                </Link>
              </td>
              <td>{v.corrected.rating}</td>
              <td>{v.corrected.action}</td>
            </>
          ) : (
            <td colSpan={3} className="soft">
              cannot be said: no visit before it, or the sensor has moved since
            </td>
          )}
        </tr>
      ))}
    </Table>
  )
}

function Missed({ report: { missed, timeZone } }: { report: ReportView }) {
  return (
    <Table
      title="Missed dates"
      none="None: no sensor went longer without a visit than its rules allowed."
      columns={['Position', 'Place', 'Visit before', 'Longest interval', 'Due', 'Visited', 'Late']}
    >
      {missed.map((m) => (
        <tr key={`${m.position} ${m.due}`}>
          <td className="font-bold whitespace-nowrap">{m.position}</td>
          <td>{m.place}</td>
          <td>{day(m.from, timeZone)}</td>
          <td>
            {plural(m.allowedDays, 'day')}
            {m.byAuthority && ', by the authority'}
          </td>
          <td>{day(m.due, timeZone)}</td>
          <td>{m.made === null ? 'not yet' : day(m.made, timeZone)}</td>
          <td>{plural(m.lateDays, 'day')}</td>
        </tr>
      ))}
    </Table>
  )
}

function Changed({ report: { changes, timeZone } }: { report: ReportView }) {
  return (
    <Table
      title="Changes of positions and their rules"
      none="None."
      columns={['When', 'Position', 'Change', 'Why', 'By']}
    >
      {changes.map((c, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines that never move
        <tr key={i}>
          <td className="whitespace-nowrap">{dayTime(c.at, timeZone)}</td>
          <td className="font-bold">{c.position}</td>
          <td>{text(c.what)}</td>
          <td>{c.why}</td>
          <td className="whitespace-nowrap">{c.operator}</td>
        </tr>
      ))}
    </Table>
  )
}

function People({ report: { people } }: { report: ReportView }) {
  return (
    <Table title="Who made visits" none="Nobody." columns={['Name', 'Visits']}>
      {people.map((p) => (
        <tr key={p.name}>
          <td className="w-48">{p.name}</td>
          <td>{p.visits}</td>
        </tr>
      ))}
    </Table>
  )
}
