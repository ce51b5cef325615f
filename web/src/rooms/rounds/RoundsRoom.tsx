import type { RoundsRow, RoundsView } from '@frustum/contract'
import { useHotkeys } from 'react-hotkeys-hook'
import { Link, useNavigate } from 'react-router'
import { Begin } from '../../components/Begin.tsx'
import { For } from '../../components/For.tsx'
import { ago, clock, daysUntil, dayTime, listed, plural, scaled, text } from '../../components/format.ts'
import { LastDay } from '../../components/LastDay.tsx'
import { Fetching } from '../../components/Problem.tsx'
import { SmallFrustum } from '../../components/SmallFrustum.tsx'
import { StateMark } from '../../components/StateMark.tsx'
import { Unfit } from '../../components/Unfit.tsx'
import { usePlanQuery, useRoundsQuery, useSiteQuery, useWalksQuery } from '../../store/api.ts'
import { useNow } from '../../store/clock.ts'
import { useLiveValues } from '../../store/live.ts'
import { useMay } from '../../store/me.ts'
import { FirstRun } from '../setUp/FirstRun.tsx'
import { headline, needsHands, whichIsOff, whySentence } from './sentences.ts'

const STATES = [
  ...(['holding', 'drifting', 'suspect', 'out soon', 'due', 'overdue', 'out', 'alarm', 'resting', 'blind'] as const),
]

export function RoundsRoom() {
  const { data, error, refetch } = useRoundsQuery(undefined, {
    pollingInterval: 60_000,
    refetchOnMountOrArgChange: true,
  })
  const { data: site } = useSiteQuery()
  const { values, connected } = useLiveValues()
  const navigate = useNavigate()
  const now = useNow(60_000)
  const timeZone = site?.timeZone ?? 'UTC'
  const rows = data?.rows
  const first = rows?.find(needsHands) ?? rows?.[0]
  const may = useMay('operator')
  useHotkeys('enter', () => first && void navigate(benchPath(first)), { enabled: first !== undefined && may })
  useHotkeys('n', () => void navigate('/trips/new'), { enabled: may })

  if (!data || !rows) return <Fetching what="the sensors" error={error} onRetry={refetch} />
  if (site && !site.exists) return <FirstRun />
  if (rows.length + data.empty.length + data.unfit.length === 0) {
    return (
      <Begin room="No sensor yet">
        Here stands what needs your hands today, first what matters most. Add the first sensor, and calibrate it.
      </Begin>
    )
  }
  // Those that need hands come first; within each group the one where a wrong reading is likeliest to do harm is on top.
  const today = rows.filter(needsHands)
  const later = rows.filter((r) => !needsHands(r))
  const row = (r: RoundsRow) => (
    <SensorRow
      key={r.position}
      row={r}
      strong={r === first}
      timeZone={timeZone}
      now={now}
      shown={values[r.position]?.shown ?? r.live.shown ?? r.typed?.value ?? null}
    />
  )
  return (
    <div className="mx-auto w-full max-w-[1400px] flex-1 px-4 pt-5 pb-10 sm:px-7">
      <div className="flex flex-wrap items-center justify-between gap-x-8 gap-y-2 border-b border-base-300 pb-3">
        <h1 className="text-2xl">{headline(rows)}</h1>
        <Fleet rows={rows} />
        <For needs="operator">
          <Link to="/trips/new" className="slant">
            Plan a trip <kbd className="key">N</kbd>
          </Link>
        </For>
      </div>
      {!connected && (
        <p className="bg-base-200 px-3 py-2 text-warning">
          The server does not answer; values stand still until it does.
        </p>
      )}
      <Prep timeZone={timeZone} now={now} />
      <Unfit sensors={data.unfit} />
      <Open data={data} timeZone={timeZone} />
      <For needs="operator">
        <Walks now={now} />
      </For>
      <ul>{today.map(row)}</ul>
      {later.length > 0 && <h2 className="border-b border-base-300 pt-6 pb-2 text-base soft">Can wait</h2>}
      <ul>{later.map(row)}</ul>
      <p className="max-w-prose pt-6 text-sm soft">
        How to read the figure: the cone is where the error may be, from the last visit to the next date (brass). The
        two lines are your limits, the dotted line is today, dots are what visits left behind.
      </p>
    </div>
  )
}

/** What the plan asks to be started today, for today's and tomorrow's trips. */
function Prep({ timeZone, now }: { timeZone: string; now: number }) {
  const { data: plan } = usePlanQuery()
  const ahead = plan?.trips.filter((t) => daysUntil(t.arrival, now) <= 1 && t.timeline.lead > 0) ?? []
  if (ahead.length === 0) return null
  return (
    <ul aria-label="Start ahead" className="border-b border-base-300 py-1">
      {ahead.map((t) => {
        const start = t.arrival - t.timeline.lead * 60_000
        const what = [...new Set(t.timeline.entries.filter((e) => e.start < 0).map((e) => e.what.toLowerCase()))]
        return (
          <li key={t.id} className="flex flex-wrap items-center justify-between gap-x-6 px-4 text-pretty">
            <span>
              <strong>
                {start < now ? 'Start now' : `Start at ${clock(start, timeZone)}`}
                {daysUntil(start, now) > 0 ? ' tomorrow' : ''}:
              </strong>{' '}
              {what.join(', ')}, for {plural(t.visits.length, 'sensor')} in {t.place} at {clock(t.arrival, timeZone)}.
            </span>
            <Link to="/plan" className="min-h-11 content-center px-2 font-bold underline underline-offset-4">
              The plan
            </Link>
          </li>
        )
      })}
    </ul>
  )
}

const DAY_MS = 86_400_000

/** Ways round displays that are read by eye, where nobody was today. */
function Walks({ now }: { now: number }) {
  const { data: walks = [] } = useWalksQuery(undefined, { refetchOnMountOrArgChange: true })
  if (walks.length === 0) return null
  return (
    <ul aria-label="Walk round" className="flex flex-wrap gap-x-8 border-b border-base-300 px-4 py-1">
      {walks.map(({ id, name, displays, lastAt }) => (
        <li key={id}>
          <Link to={`/walk/${id}`} className="inline-flex min-h-11 items-center gap-2">
            <span
              className={
                now - (lastAt ?? 0) > DAY_MS ? 'font-bold underline underline-offset-4' : 'underline underline-offset-4'
              }
            >
              Walk round {name}
            </span>
            <span className="text-sm soft">
              {plural(displays, 'display')}, {lastAt === null ? 'never read' : `read ${ago(lastAt)}`}
            </span>
          </Link>
        </li>
      ))}
    </ul>
  )
}

/** What is open besides the sensors themselves: trips, awaited results, pairs that part, positions without a sensor. */
function Open({ data, timeZone }: { data: RoundsView; timeZone: string }) {
  const { trips, rows, disagreeing, empty, toDo, checkNow } = data
  const pending = rows.filter((r) => r.openVisit?.pending)
  if (trips.length + pending.length + disagreeing.length + empty.length + checkNow.length + toDo.length === 0)
    return null
  return (
    <ul aria-label="Open" className="border-b border-base-300">
      {trips.map((trip) => (
        <OpenItem key={trip.id} to={`/trips/${trip.id}`} action="Go on">
          <strong>{trip.name}</strong>: {trip.visits.filter((v) => v.outcome === 'done').length} of {trip.visits.length}{' '}
          done, on the way since {clock(trip.startedAt, timeZone)}.
        </OpenItem>
      ))}
      {pending.map((r) => (
        <OpenItem key={r.position} to={`/bench/${r.openVisit?.id}`} action="Enter it">
          <strong>{r.position}</strong> waits for “{r.openVisit?.step.toLowerCase()}” since{' '}
          {dayTime(r.openVisit?.since ?? 0, timeZone)}.
        </OpenItem>
      ))}
      {checkNow.map(({ position, of, beside, since, sentence, risk }) => (
        <OpenItem key={`now ${position}`} to={`/bench/start/${position}`} action="Check now">
          <strong>{of}</strong> {text(sentence)}, since {dayTime(since, timeZone)}.
          {of !== position && ` ${position} is likelier off.`}
          {risk && ` ${text(risk)}.`}{' '}
          <Link
            to={`/probes/${of}/readings?last=${7 * DAY_MS}${beside ? `&with=${beside}` : ''}`}
            className="inline-block min-h-6 underline underline-offset-4"
          >
            The curve
          </Link>
        </OpenItem>
      ))}
      {disagreeing.map(({ positions: [a, b], difference, canTell, unit, decimals, off }) => (
        <OpenItem key={a + b} to={`/bench/start/${a}`} action="Compare">
          <strong>
            {a} and {b}
          </strong>{' '}
          differ by {text({ value: Math.abs(difference), unit, decimals, difference: true })}; expected at most ±
          {text({ value: canTell, unit, decimals, difference: true })}. {whichIsOff(off)}
        </OpenItem>
      ))}
      {empty.map((e) => (
        <OpenItem key={e.position} to={`/bench/start/${e.position}`} action="Check or commission">
          <strong>{e.position}</strong>, {listed(e.place, e.spot)}, has no sensor
          {e.since ? ` since ${ago(e.since)}` : ''}.
        </OpenItem>
      ))}
      {toDo.map(({ kind, sentence }) => (
        <OpenItem key={text(sentence)} {...TO_DO[kind]}>
          {text(sentence)}
        </OpenItem>
      ))}
    </ul>
  )
}

/** Where each kind of task is done. */
const TO_DO = {
  standard: { to: '/shelf', action: 'Open Shelf' },
  instrument: { to: '/rig', action: 'Update date' },
  backup: { to: '/site/backup', action: 'Back up' },
} as const

function OpenItem({ to, action, children }: { to: string; action: string; children: React.ReactNode }) {
  return (
    <li className="flex flex-wrap items-center justify-between gap-x-6 gap-y-1 border-l-4 border-accent bg-[color:var(--brass-tint)] px-4 py-1.5 not-last:mb-1">
      <span className="text-pretty">{children}</span>
      <For needs={to.startsWith('/trips/') ? 'viewer' : 'operator'}>
        <Link to={to} className="min-h-11 content-center px-2 font-bold underline underline-offset-4">
          {action}
        </Link>
      </For>
    </li>
  )
}

function Fleet({ rows }: { rows: readonly RoundsRow[] }) {
  return (
    <ul aria-label="The fleet" className="flex flex-wrap gap-x-5 gap-y-1 text-sm">
      {STATES.map((state) => {
        const count = rows.filter((r) => r.state === state).length
        return (
          count > 0 && (
            <li key={state} className="flex items-center gap-1.5">
              <StateMark state={state} /> <span>{count}</span>
            </li>
          )
        )
      })}
    </ul>
  )
}

const benchPath = (row: RoundsRow) => (row.openVisit ? `/bench/${row.openVisit.id}` : `/bench/start/${row.position}`)

interface SensorRowProps {
  row: RoundsRow
  strong: boolean
  timeZone: string
  now: number
  shown: number | null
}

function SensorRow({ row, strong, timeZone, now, shown }: SensorRowProps) {
  const label = row.openVisit ? 'Go on' : row.verb
  const live = scaled(shown, row.scale)
  return (
    <li className="grid grid-cols-[1fr_auto] items-center gap-x-4 gap-y-2 border-b border-base-300 py-3 lg:grid-cols-[6.5rem_12.5rem_8.5rem_8.5rem_minmax(0,1fr)_10rem]">
      <span className="max-lg:order-2 max-lg:justify-self-end">
        <StateMark state={row.state} />
      </span>
      <Link to={`/probes/${row.position}`} className="group block max-lg:order-1">
        <span className="block font-bold group-hover:underline">{row.position}</span>
        <span className="block text-sm soft">{listed(row.place, row.spot)}</span>
      </Link>
      <span className="font-mono text-xl whitespace-nowrap max-lg:order-3">
        {live.number} <span className="text-sm soft">{live.unit}</span>
        <Link
          to={`/probes/${row.position}/readings`}
          className="block w-fit"
          aria-label={`Readings of ${row.position}`}
        >
          <LastDay position={row.position} now={now} />
        </Link>
      </span>
      <span className="max-lg:order-4 max-lg:justify-self-end">
        <SmallFrustum figure={row.figure} now={now} />
      </span>
      <p className="text-sm text-pretty max-lg:order-5 max-lg:col-span-2">
        {row.openVisit && !row.openVisit.pending
          ? `${row.openVisit.operator} has it in hand since ${clock(row.openVisit.since, timeZone)}, at “${row.openVisit.step}”. `
          : ''}
        {row.alarm && (
          <strong>
            {row.position} {text(row.alarm)}.{' '}
          </strong>
        )}
        {row.differs && `Differs from ${row.differs.from} by ${text(row.differs.by)}. `}
        {row.live.blindSince ? `No data since ${clock(row.live.blindSince, timeZone)}. ` : ''}
        {row.linked ? '' : row.typed ? `Read ${ago(row.typed.at, now)}. ` : 'Readings are typed. '}
        {text(whySentence(row, timeZone, now))}
      </p>
      <For needs={row.openVisit ? 'viewer' : 'operator'}>
        <Link
          to={benchPath(row)}
          className={`slant justify-self-end max-lg:order-6 max-lg:col-span-2 ${strong ? 'slant-strong' : ''}`}
        >
          {label} {strong && <kbd className="key">Enter</kbd>}
        </Link>
      </For>
    </li>
  )
}
