import {
  type ConnectionPageView,
  type ConnectionSettings,
  type DeviceAddress,
  decimalMark,
  HTTP_AUTH,
  isModbus,
  type KeptView,
  MQTT_VERSIONS,
  PROTOCOLS,
} from '@frustum/contract'
import { readTypedNumber } from '@frustum/core'
import { useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { toast } from 'sonner'
import { ago, dayTime, plural } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import {
  problemOf,
  useConnectionQuery,
  useDeleteConnectionMutation,
  useEditConnectionMutation,
  useSiteQuery,
} from '../../store/api.ts'
import { useMay } from '../../store/me.ts'
import { actorOf } from '../../store/person.ts'
import { useAppSelector } from '../../store/store.ts'
import { Field } from '../bench/Field.tsx'
import { ConnectionMark } from './ConnectionMark.tsx'
import { networkSettings } from './draft.ts'
import { Network, type NetworkDraft } from './Network.tsx'
import { withUnit } from './numbers.ts'

const POLL_MS = 2000

/** A bus or host: how it is, what its devices said last, and what went over the line. */
export function ConnectionPage() {
  const { id = '' } = useParams()
  const { data, error, refetch } = useConnectionQuery(id, { pollingInterval: POLL_MS, refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  const lead = useMay('lead')
  if (!data || !site) return <Fetching what="the connection" error={error} onRetry={refetch} />
  const { settings } = data
  return (
    <div className="mx-auto w-full max-w-5xl px-5 py-6">
      <Link to="/rig" className="inline-flex min-h-11 items-center underline underline-offset-4">
        Rig
      </Link>
      <h1 className="text-2xl">{data.name}</h1>
      <p className="soft">{[PROTOCOLS[data.protocol], reachedAt(settings)].filter(Boolean).join(', ')}</p>
      <p className="flex flex-wrap items-center gap-x-6 py-3">
        <ConnectionMark state={data.state} protocol={data.protocol} />
        {data.why && <span>{data.why}</span>}
        {data.answerMs !== null && <span>Answers in {Math.max(1, Math.round(data.answerMs))} ms.</span>}
        <span className={data.failuresAnHour > 0 ? '' : 'soft'}>
          {plural(data.failuresAnHour, 'failure')} in the last hour.
        </span>
      </p>
      <Sensors page={data} />
      <ExchangeList page={data} timeZone={site.timeZone} />
      {lead && <Settings key={JSON.stringify([data.name, settings])} page={data} />}
    </div>
  )
}

/** Where on its connection a device is. */
const placeOf = ({ unit, topic, path }: DeviceAddress): string =>
  unit === undefined ? (topic ?? path ?? '') : `unit ${unit}`

/** Where a connection leads, in words. */
function reachedAt({ path, baud, host, port, url, tls, user }: ConnectionSettings): string {
  if (path) return `${path}, ${baud ?? 9600} baud`
  if (url) return url
  const parts = [host, port ? `port ${port}` : '', tls ? 'encrypted' : '', user ? `as ${user}` : '']
  return parts.filter(Boolean).join(', ')
}

function Sensors({ page }: { page: ConnectionPageView }) {
  if (page.devices.length === 0) return <p className="py-3 soft">No device is on it.</p>
  return (
    <section aria-label="What it reads">
      {page.devices.map((device) => (
        <div key={device.id} className="border-t border-base-300 py-3">
          <h2 className="font-bold">
            <Link to={`/rig/device/${device.id}`} className="hover:underline">
              {device.name}
            </Link>{' '}
            <span className="font-normal soft">{placeOf(device.address)}</span>
          </h2>
          {device.sensors.map((on) => {
            const sensor = page.sensors.find((s) => s.id === on.id)
            return (
              <div key={on.id} className="grid gap-x-4 py-1 sm:grid-cols-[9rem_1fr]">
                <Link
                  to={`/rig/position/${on.id}/line`}
                  className="min-h-11 content-center underline underline-offset-4"
                >
                  {on.code}
                </Link>
                <div className="self-center">
                  {!sensor && <span className="soft">read by eye</span>}
                  {sensor?.why && <p className="text-warning">{sensor.why}</p>}
                  {sensor && sensor.raw.length > 0 && (
                    <ul className="grid gap-x-6 sm:grid-cols-2 lg:grid-cols-3">
                      {sensor.raw.map((r) => (
                        <li key={r.channel}>
                          {r.channel}{' '}
                          {r.value === null ? (
                            <span className="soft">{r.missing}</span>
                          ) : (
                            <strong>{withUnit(r.value, r.unit)}</strong>
                          )}
                          <span className="block text-sm soft">
                            {r.place}: <span className="font-mono">{r.raw}</span>
                          </span>
                        </li>
                      ))}
                    </ul>
                  )}
                  {sensor?.kept && <Kept kept={sensor.kept} />}
                  {sensor?.at != null && <p className="text-sm soft">read {ago(sensor.at)}</p>}
                </div>
              </div>
            )
          })}
        </div>
      ))}
    </section>
  )
}

/** Where there are readings and where there are gaps, which what comes late fills. */
function Kept({ kept: { there, eachMs } }: { kept: KeptView }) {
  const filled = there.filter(Boolean).length
  const minutes = Math.round(eachMs / 60_000)
  const stretches = minutes === 1 ? 'minutes' : `stretches of ${minutes} minutes`
  return (
    <div className="py-1">
      <svg
        viewBox={`0 0 ${there.length} 10`}
        preserveAspectRatio="none"
        className="h-5 w-full max-w-xl"
        aria-hidden="true"
      >
        {there.map((is, i) => (
          <rect
            // biome-ignore lint/suspicious/noArrayIndexKey: a stretch is its place
            key={i}
            x={i + 0.08}
            y={is ? 0 : 8}
            width={0.84}
            height={is ? 10 : 2}
            className={is ? 'fill-primary' : 'fill-warning'}
          />
        ))}
      </svg>
      <p className="text-sm soft">
        Of the last {there.length} {stretches} {filled} have a reading.
      </p>
    </div>
  )
}

function ExchangeList({ page, timeZone }: { page: ConnectionPageView; timeZone: string }) {
  return (
    <details className="border-t border-base-300 pt-2">
      <summary className="min-h-11 w-fit cursor-pointer content-center font-bold">
        The last {page.exchanges.length} exchanges
      </summary>
      {page.exchanges.length === 0 && <p className="soft">Nothing was asked yet.</p>}
      <ol>
        {page.exchanges.map((e) => (
          <li key={`${e.at} ${e.sent}`} className="border-b border-base-300 py-2">
            <p>
              <span className="font-mono soft">{dayTime(e.at, timeZone)}</span> {e.words}.{' '}
              <strong className={e.failed ? 'text-warning' : 'font-normal'}>
                {e.failed || e.took === null ? e.outcome : `Answered in ${e.took} ms.`}
              </strong>
            </p>
            <p className="font-mono text-sm break-all soft">
              {e.sent && <>out {e.sent}</>}
              {e.received && (
                <>
                  <br />
                  in&nbsp; {e.received}
                </>
              )}
            </p>
          </li>
        ))}
      </ol>
    </details>
  )
}

function Settings({ page }: { page: ConnectionPageView }) {
  const { id, protocol, settings } = page
  const { operator } = useAppSelector(actorOf)
  const [edit, { isLoading }] = useEditConnectionMutation()
  const [remove] = useDeleteConnectionMutation()
  const navigate = useNavigate()
  const [typed, setTyped] = useState<Record<string, string>>({
    name: page.name,
    host: settings.host ?? '',
    port: settings.port ? String(settings.port) : '',
    path: settings.path ?? '',
    everyMs: settings.everyMs ? String(settings.everyMs / 1000) : '',
    answerMs: settings.answerMs ? String(settings.answerMs / 1000) : '',
  })
  const [network, setNetwork] = useState<NetworkDraft>({
    host: settings.host ?? '',
    port: settings.port ? String(settings.port) : '',
    version: settings.version ?? MQTT_VERSIONS[0],
    tls: settings.tls ?? false,
    authority: settings.authority ?? '',
    linkLocal: settings.linkLocal ?? false,
    user: settings.user ?? '',
    secret: '',
    auth: settings.auth ?? HTTP_AUTH[0],
    url: settings.url ?? '',
  })
  const [errors, setErrors] = useState<Record<string, string>>({})
  const field = (key: string, label: string, more: { unit?: string; wide?: boolean; hint?: string } = {}) => (
    <Field
      label={label}
      unit={more.unit ?? ''}
      wide={more.wide ?? false}
      hint={more.hint}
      error={errors[key] ?? errors[`settings.${key}`]}
      value={typed[key] ?? ''}
      onChange={(e) => setTyped({ ...typed, [key]: e.target.value })}
    />
  )
  const number = (key: string, factor = 1) => {
    const read = readTypedNumber(typed[key] ?? '', decimalMark())
    if (!read.ok && read.problem === 'empty') return {}
    return { [key]: read.ok ? read.value * factor : Number.NaN }
  }
  const reached = () => {
    if (protocol === 'mqtt' || protocol === 'http') return networkSettings(protocol, network)
    const own = { ...settings }
    for (const key of ['host', 'port', 'path', 'everyMs', 'answerMs'] as const) delete own[key]
    const text = (key: 'host' | 'path') => (typed[key]?.trim() ? { [key]: typed[key].trim() } : {})
    return { ...own, ...text('host'), ...text('path'), ...number('port') }
  }
  const save = async () => {
    const answer = await edit({
      id: String(id),
      operator,
      name: typed.name ?? '',
      settings: { ...reached(), ...number('everyMs', 1000), ...number('answerMs', 1000) } as never,
      ...(network.secret === '' ? {} : { secret: network.secret }),
    })
    if (answer.data) {
      setErrors({})
      toast.success('Saved. The line was opened anew.')
      return
    }
    const { message, hint, fields } = problemOf(answer.error)
    setErrors(fields ?? {})
    if (!fields) toast.error(message, { description: hint })
  }
  const takeAway = async () => {
    const answer = await remove({ id: String(id), operator })
    if (answer.data) void navigate('/rig', { replace: true })
    else toast.error(problemOf(answer.error).message, { description: problemOf(answer.error).hint })
  }
  return (
    <section aria-label="How it is reached" className="border-t border-base-300 py-4">
      <h2 className="pb-2 text-lg font-bold">How it is reached</h2>
      <div className="flex flex-wrap gap-x-6">
        {field('name', 'Name', { wide: true })}
        {protocol === 'modbus-serial' && field('path', 'Serial port', { wide: true })}
        {isModbus(protocol) && protocol !== 'modbus-serial' && (
          <>
            {field('host', 'Address or name', { wide: true })}
            {field('port', 'Port')}
          </>
        )}
        {(isModbus(protocol) || protocol === 'http') && (
          <>
            {field('everyMs', 'Asked every', { unit: 's', hint: 'Empty: as the server asks.' })}
            {field('answerMs', 'An answer may take', { unit: 's', hint: `Empty: ${protocol === 'http' ? 5 : 0.9} s.` })}
          </>
        )}
        {(protocol === 'mqtt' || protocol === 'push') &&
          field('everyMs', 'It speaks every', { unit: 's', hint: 'Blind after four times that. Empty: as it did.' })}
      </div>
      {(protocol === 'mqtt' || protocol === 'http') && (
        <Network
          protocol={protocol}
          draft={network}
          errors={errors}
          hasSecret={page.hasSecret}
          onChange={(change) => setNetwork({ ...network, ...change })}
        />
      )}
      <div className="flex flex-wrap items-center gap-5">
        <button type="button" className="slant slant-strong" disabled={isLoading} onClick={() => void save()}>
          Save
        </button>
        <button type="button" className="slant slant-plain ml-auto" onClick={() => void takeAway()}>
          Put it away
        </button>
      </div>
    </section>
  )
}
