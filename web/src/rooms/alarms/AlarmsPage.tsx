import type { AlarmView } from '@frustum/contract'
import { useState } from 'react'
import { Link } from 'react-router'
import { toast } from 'sonner'
import { dayTime, duration, plural, text } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import {
  useAcknowledgeAlarmMutation,
  useAlarmsQuery,
  useLearningQuery,
  useShelveAlarmMutation,
  useSiteQuery,
  useUnshelveAlarmMutation,
} from '../../store/api.ts'
import { useNow } from '../../store/clock.ts'
import { useMay } from '../../store/me.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { Calls } from './Calls.tsx'

const LOOK_EVERY_MS = 5000

/** Active alarms, shelved ones, and those that returned to normal unacknowledged. */
export function AlarmsPage() {
  const { data, error, refetch } = useAlarmsQuery(undefined, {
    pollingInterval: LOOK_EVERY_MS,
    refetchOnMountOrArgChange: true,
  })
  const { data: site } = useSiteQuery()
  const lead = useMay('lead')
  if (!data || !site) return <Fetching what="the alarms" error={error} onRetry={refetch} />
  const { timeZone } = site
  const active = data.filter((a) => a.returnedAt === null && a.shelved === null)
  const shelved = data.filter((a) => a.returnedAt === null && a.shelved !== null)
  const returned = data.filter((a) => a.returnedAt !== null)
  return (
    <div className="mx-auto w-full max-w-5xl px-5 py-6">
      <div className="flex flex-wrap items-center justify-between gap-x-8 gap-y-2">
        <h1 className="text-2xl">{active.length === 0 ? 'No active alarms' : plural(active.length, 'active alarm')}</h1>
        <nav aria-label="More about alarms" className="flex flex-wrap gap-x-6">
          <Link to="/alarms/history" className="inline-flex min-h-11 items-center underline underline-offset-4">
            Alarm history
          </Link>
          {lead && (
            <Link to="/site/told" className="inline-flex min-h-11 items-center underline underline-offset-4">
              Notifications
            </Link>
          )}
        </nav>
      </div>
      {data.length === 0 && (
        <p className="max-w-prose pt-3 text-lg text-pretty">
          Alarms are raised for lost signal, implausible or frozen readings, noise, unusual values, disagreement with a
          redundant sensor, and the limits that you set for a sensor.
        </p>
      )}
      {byConnection(active).map(({ connection, alarms }) => (
        <section key={connection ?? alarms[0]?.id} aria-label={connection ?? 'Active alarms'} className="pt-4">
          {connection && (
            <h2 className="text-base font-bold">
              {connection}: no data from {plural(alarms.length, 'sensor')}. Check the connection first.
            </h2>
          )}
          <AlarmList alarms={alarms} timeZone={timeZone} />
        </section>
      ))}
      <Section title="Shelved" alarms={shelved} timeZone={timeZone} />
      <Section title="Returned to normal, not acknowledged" alarms={returned} timeZone={timeZone}>
        {returned.length > 1 && <AcknowledgeAll alarms={returned} />}
      </Section>
      <StillLearning />
      <Calls />
    </div>
  )
}

interface SectionProps {
  title: string
  alarms: readonly AlarmView[]
  timeZone: string
  children?: React.ReactNode
}

function Section({ title, alarms, timeZone, children }: SectionProps) {
  if (alarms.length === 0) return null
  return (
    <section aria-label={title} className="pt-6">
      <div className="flex flex-wrap items-center justify-between gap-x-6">
        <h2 className="text-base soft">{title}</h2>
        {children}
      </div>
      <AlarmList alarms={alarms} timeZone={timeZone} />
    </section>
  )
}

function AcknowledgeAll({ alarms }: { alarms: readonly AlarmView[] }) {
  const { operator } = useAppSelector(actorOf)
  const may = useMay('operator')
  const [acknowledge, { isLoading }] = useAcknowledgeAlarmMutation()
  const all = async () => {
    for (const { id } of alarms) {
      const { error } = await acknowledge({ id: String(id), operator })
      if (error) return toast.error(problemOf(error).message)
    }
  }
  if (!may) return null
  return (
    <button type="button" className="slant slant-plain" disabled={isLoading} onClick={() => void all()}>
      Acknowledge all
    </button>
  )
}

const AlarmList = ({ alarms, timeZone }: { alarms: readonly AlarmView[]; timeZone: string }) => (
  <ul>
    {alarms.map((alarm) => (
      <Alarm key={alarm.id} alarm={alarm} timeZone={timeZone} />
    ))}
  </ul>
)

/** Several sensors of one connection that send no data are one group, at the place of its first. */
function byConnection(alarms: readonly AlarmView[]): { connection: string | null; alarms: AlarmView[] }[] {
  const lost = (connection: string | null) => alarms.filter((a) => a.isOfConnection && a.connection === connection)
  return alarms.flatMap((alarm) => {
    const { connection } = alarm
    const group = alarm.isOfConnection && connection !== null ? lost(connection) : []
    if (group.length < 2) return { connection: null, alarms: [alarm] }
    return group[0] === alarm ? { connection, alarms: group } : []
  })
}

function Alarm({ alarm, timeZone }: { alarm: AlarmView; timeZone: string }) {
  const { id, position, place, severity, raisedAt, returnedAt, acknowledged, shelved } = alarm
  const { operator } = useAppSelector(actorOf)
  const may = useMay('operator')
  const now = useNow(30_000)
  const [acknowledge, acknowledging] = useAcknowledgeAlarmMutation()
  const [unshelve, unshelving] = useUnshelveAlarmMutation()
  const [isShelving, setShelving] = useState(false)
  const done = async (answer: Promise<{ error?: Parameters<typeof problemOf>[0] }>) => {
    const { error } = await answer
    if (error) toast.error(problemOf(error).message)
  }
  const isSevere = severity === 'alarm' && returnedAt === null
  return (
    <li className={`border-b border-base-300 py-3 pl-4 border-l-4 ${isSevere ? 'border-l-error' : 'border-l-warning'}`}>
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2">
        <p className="min-w-64 flex-1 text-lg">
          {position && (
            <>
              <Link to={`/probes/${position}/readings`} className="font-bold underline underline-offset-4">
                {position}
              </Link>{' '}
            </>
          )}
          {text(alarm.sentence)}
          <span className="block text-sm soft">
            {place && `${place} · `}
            {returnedAt === null
              ? `since ${dayTime(raisedAt, timeZone)} (${duration((now - raisedAt) / 60_000)})`
              : `${dayTime(raisedAt, timeZone)} to ${dayTime(returnedAt, timeZone)} (${duration((returnedAt - raisedAt) / 60_000)})`}
            {acknowledged && ` · acknowledged by ${acknowledged.by}`}
            {shelved && ` · shelved until ${dayTime(shelved.until, timeZone)} by ${shelved.by}: ${shelved.reason}`}
          </span>
        </p>
        {may && (
          <span className="flex gap-3">
            {!acknowledged && (
              <button
                type="button"
                className={returnedAt === null ? 'slant slant-strong' : 'slant'}
                disabled={acknowledging.isLoading}
                onClick={() => void done(acknowledge({ id: String(id), operator }))}
              >
                Acknowledge
              </button>
            )}
            {shelved && (
              <button
                type="button"
                className="slant slant-plain"
                disabled={unshelving.isLoading}
                onClick={() => void done(unshelve({ id: String(id), operator }))}
              >
                Unshelve
              </button>
            )}
            {!shelved && returnedAt === null && (
              <button
                type="button"
                className="slant slant-plain"
                aria-expanded={isShelving}
                onClick={() => setShelving(!isShelving)}
              >
                Shelve
              </button>
            )}
          </span>
        )}
      </div>
      {isShelving && <Shelve id={id} onDone={() => setShelving(false)} />}
    </li>
  )
}

const MINUTES = [
  [30, '30 min'],
  [120, '2 h'],
  [720, '12 h'],
  [2880, '2 days'],
] as const

function Shelve({ id, onDone }: { id: number; onDone: () => void }) {
  const { operator } = useAppSelector(actorOf)
  const [shelve, { isLoading }] = useShelveAlarmMutation()
  const [reason, setReason] = useState('')
  const [problem, setProblem] = useState<string | null>(null)
  const go = async (minutes: number) => {
    const { error } = await shelve({ id: String(id), operator, minutes, reason: reason.trim() })
    if (!error) return onDone()
    const { message, fields } = problemOf(error)
    setProblem(fields?.reason ?? message)
  }
  return (
    <div className="flex flex-wrap items-end gap-3 pt-3">
      <label className="block">
        <span className="block text-sm">Reason</span>
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

/** Alarms that need to know what is usual, and the sensors of which too little is known yet. */
function StillLearning() {
  const { data = [] } = useLearningQuery(undefined, { refetchOnMountOrArgChange: true })
  if (data.length === 0) return null
  return (
    <section aria-label="Not monitored yet" className="pt-6">
      <h2 className="text-base soft">Not monitored yet</h2>
      <ul className="text-sm">
        {data.map(({ kind, name, positions }) => (
          <li key={kind} className="py-1">
            <strong>{name}</strong>: {positions.join(', ')}
          </li>
        ))}
      </ul>
      <p className="text-sm soft">These alarms start after three days of readings.</p>
    </section>
  )
}
