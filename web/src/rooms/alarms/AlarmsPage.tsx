import type { AlarmView } from '@frustum/contract'
import { alarmSentence } from '@frustum/core'
import { useState } from 'react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { dayTime, duration, plural, text } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { problemOf, useAlarmsQuery, useQuietAlarmMutation, useSeeAlarmMutation, useSiteQuery } from '../../store/api.ts'
import { useNow } from '../../store/clock.ts'
import { useMay } from '../../store/me.ts'
import { actorOf } from '../../store/person.ts'
import { useAppSelector } from '../../store/store.ts'
import { Calls } from './Calls.tsx'

const LOOK_EVERY_MS = 5000

/** What is wrong now, and what was and nobody saw. */
export function AlarmsPage() {
  const { data, error, refetch } = useAlarmsQuery(undefined, {
    pollingInterval: LOOK_EVERY_MS,
    refetchOnMountOrArgChange: true,
  })
  const { data: site } = useSiteQuery()
  const lead = useMay('lead')
  if (!data || !site) return <Fetching what="the alarms" error={error} onRetry={refetch} />
  const last = data.filter((a) => a.goneAt === null)
  const gone = data.filter((a) => a.goneAt !== null)
  return (
    <div className="mx-auto w-full max-w-5xl px-5 py-6">
      <h1 className="text-2xl">
        {last.length === 0
          ? 'Nothing is wrong now'
          : `${plural(last.length, 'alarm')} ${last.length === 1 ? 'lasts' : 'last'}`}
      </h1>
      {data.length === 0 && (
        <p className="max-w-prose pt-3 text-lg text-pretty">
          A sensor raises one when it does not answer, reads what cannot be, hangs, is far from its ordinary day or its
          twin, or is beyond the limits that are set on the page of its readings. So does what was forgotten: a hold, a
          visit, a backup.
        </p>
      )}
      {grouped(last).map(({ cause, alarms }) => (
        <section key={cause ?? alarms[0]?.id} aria-label={cause ?? 'Alarms'} className="pt-4">
          {cause && (
            <h2 className="text-base font-bold">
              {cause}: {plural(alarms.length, 'sensor')} at once, so it is likely the line
            </h2>
          )}
          <ul>
            {alarms.map((alarm) => (
              <Alarm key={alarm.id} alarm={alarm} timeZone={site.timeZone} />
            ))}
          </ul>
        </section>
      ))}
      {gone.length > 0 && (
        <section aria-label="Gone, and not seen yet" className="pt-6">
          <h2 className="text-base soft">Gone, and not seen yet</h2>
          <ul>
            {gone.map((alarm) => (
              <Alarm key={alarm.id} alarm={alarm} timeZone={site.timeZone} />
            ))}
          </ul>
        </section>
      )}
      <Calls />
      {lead && (
        <p className="pt-3">
          <Link to="/site/told" className="inline-flex min-h-11 items-center underline underline-offset-4">
            Who is told when nobody looks
          </Link>
        </p>
      )}
    </div>
  )
}

/** Those of one cause together, where the first of them stands. */
function grouped(alarms: readonly AlarmView[]): { cause: string | null; alarms: AlarmView[] }[] {
  const groups: { cause: string | null; alarms: AlarmView[] }[] = []
  for (const alarm of alarms) {
    const known = alarm.cause === null ? undefined : groups.find((g) => g.cause === alarm.cause)
    if (known) known.alarms.push(alarm)
    else groups.push({ cause: alarm.cause, alarms: [alarm] })
  }
  return groups
}

function Alarm({ alarm, timeZone }: { alarm: AlarmView; timeZone: string }) {
  const { id, position, place, severity, raisedAt, goneAt, seen, quiet } = alarm
  const { operator } = useAppSelector(actorOf)
  const may = useMay('operator')
  const now = useNow(30_000)
  const [see, { isLoading }] = useSeeAlarmMutation()
  const [quieting, setQuieting] = useState(false)
  const saw = async () => {
    const { error } = await see({ id: String(id), operator })
    if (error) toast.error(problemOf(error).message)
  }
  const grave = severity === 'alarm' && goneAt === null
  return (
    <li
      className={`border-b border-base-300 py-3 pl-4 ${grave ? 'border-l-4 border-l-error' : 'border-l-4 border-l-warning'}`}
    >
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2">
        <p className="min-w-64 flex-1 text-lg">
          {position && (
            <>
              <Link to={`/probes/${position}/readings`} className="font-bold underline underline-offset-4">
                {position}
              </Link>{' '}
            </>
          )}
          {text(alarmSentence(alarm))}
          <span className="block text-sm soft">
            {place && `${place}, `}
            {dayTime(raisedAt, timeZone)}
            {goneAt === null
              ? `, for ${duration((now - raisedAt) / 60_000)}`
              : ` to ${dayTime(goneAt, timeZone)}, ${duration((goneAt - raisedAt) / 60_000)}`}
            {seen && `, seen by ${seen.by}`}
            {quiet && `, quiet until ${dayTime(quiet.until, timeZone)} (${quiet.by}: ${quiet.reason})`}
          </span>
        </p>
        {may && (
          <span className="flex gap-3">
            {!seen && (
              <button type="button" className="slant slant-strong" disabled={isLoading} onClick={() => void saw()}>
                I saw it
              </button>
            )}
            {goneAt === null && (
              <button
                type="button"
                className="slant slant-plain"
                aria-expanded={quieting}
                onClick={() => setQuieting(!quieting)}
              >
                Quiet for ...
              </button>
            )}
          </span>
        )}
      </div>
      {quieting && <Quiet id={id} onDone={() => setQuieting(false)} />}
    </li>
  )
}

const MINUTES = [
  [30, '30 min'],
  [120, '2 h'],
  [720, '12 h'],
  [2880, '2 days'],
] as const

function Quiet({ id, onDone }: { id: number; onDone: () => void }) {
  const { operator } = useAppSelector(actorOf)
  const [quiet, { isLoading }] = useQuietAlarmMutation()
  const [reason, setReason] = useState('')
  const [problem, setProblem] = useState<string | null>(null)
  const go = async (minutes: number) => {
    const { error } = await quiet({ id: String(id), operator, minutes, reason: reason.trim() })
    if (!error) return onDone()
    const { message, fields } = problemOf(error)
    setProblem(fields?.reason ?? message)
  }
  return (
    <div className="flex flex-wrap items-end gap-3 pt-3">
      <label className="block">
        <span className="block text-sm">Why</span>
        <input
          className="h-12 w-72 max-w-full border border-[color:var(--line)] bg-base-100 px-3 text-lg"
          autoComplete="off"
          maxLength={200}
          value={reason}
          onChange={(e) => setReason(e.target.value)}
        />
      </label>
      {MINUTES.map(([minutes, label]) => (
        <button key={minutes} type="button" className="slant" disabled={isLoading} onClick={() => void go(minutes)}>
          {label}
        </button>
      ))}
      {problem && (
        <p role="alert" className="w-full text-sm text-error">
          {problem}
        </p>
      )}
    </div>
  )
}
