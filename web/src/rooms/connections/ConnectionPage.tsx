import { type ConnectionPageView, type KeptView, type ProtocolForm, UnreadableField } from '@frustum/contract'
import { useForm } from 'react-hook-form'
import { Link, useNavigate, useParams } from 'react-router'
import { toast } from 'sonner'
import { ago, dayTime, plural } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import {
  useConnectionQuery,
  useDeleteConnectionMutation,
  useEditConnectionMutation,
  useProtocolsQuery,
  useSiteQuery,
} from '../../store/api.ts'
import { useMay } from '../../store/me.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { FormFields } from '../bench/FormFields.tsx'
import type { FormTexts } from '../bench/formTexts.ts'
import { ConnectionMark } from './ConnectionMark.tsx'
import { fieldTexts, settingsOf } from './lineForm.ts'
import { withUnit } from './numbers.ts'

const POLL_MS = 2000

/** A connection: its state, the last values of its devices, and the traffic. */
export function ConnectionPage() {
  const { id = '' } = useParams()
  const { data, error, refetch } = useConnectionQuery(id, { pollingInterval: POLL_MS, refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  // Ports are listed each time the page is opened: a converter may have been plugged in.
  const { data: protocols } = useProtocolsQuery(undefined, { refetchOnMountOrArgChange: true })
  const lead = useMay('lead')
  if (!data || !site) return <Fetching what="the connection" error={error} onRetry={refetch} />
  const protocol = protocols?.find(({ key }) => key === data.protocol)
  return (
    <div className="mx-auto w-full max-w-5xl px-5 py-6">
      <Link to="/rig" className="inline-flex min-h-11 items-center underline underline-offset-4">
        Rig
      </Link>
      <h1 className="text-2xl">{data.name}</h1>
      <p className="soft">{data.reached}</p>
      <p className="flex flex-wrap items-center gap-x-6 py-3">
        <ConnectionMark state={data.state} polled={data.polled} />
        {data.why && <span>{data.why}</span>}
        {data.answerMs !== null && <span>Answers in {Math.max(1, Math.round(data.answerMs))} ms.</span>}
        <span className={data.failuresAnHour > 0 ? '' : 'soft'}>
          {plural(data.failuresAnHour, 'failure')} in the last hour.
        </span>
      </p>
      <Sensors page={data} />
      <ExchangeList page={data} timeZone={site.timeZone} />
      {lead && protocol && (
        <Settings key={JSON.stringify([data.name, data.settings])} page={data} protocol={protocol} />
      )}
    </div>
  )
}

function Sensors({ page }: { page: ConnectionPageView }) {
  if (page.devices.length === 0) return <p className="py-3 soft">No devices use this connection.</p>
  return (
    <section aria-label="Devices">
      {page.devices.map((device) => (
        <div key={device.id} className="border-t border-base-300 py-3">
          <h2 className="font-bold">
            <Link to={`/rig/device/${device.id}`} className="hover:underline">
              {device.name}
            </Link>{' '}
            <span className="font-normal soft">{device.where}</span>
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
                  {!sensor && <span className="soft">manual readings</span>}
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

function Settings({ page, protocol }: { page: ConnectionPageView; protocol: ProtocolForm }) {
  const { id, name, settings, hasSecret } = page
  const { operator } = useAppSelector(actorOf)
  const [edit, { isLoading }] = useEditConnectionMutation()
  const [remove] = useDeleteConnectionMutation()
  const navigate = useNavigate()
  const fields = protocol.settings.map((field) =>
    field.kind === 'secret' && hasSecret
      ? { ...field, optional: true, hint: 'Leave blank to keep the one that is set.' }
      : field,
  )
  const form = useForm<FormTexts>({ defaultValues: { name, ...fieldTexts(fields, { settings }) } as never })
  const save = form.handleSubmit(async (values) => {
    try {
      const sent = settingsOf(values, { settings: fields })
      const answer = await edit({ id: String(id), operator, name: String(values.name), ...sent })
      if (answer.data) return toast.success('Saved. The connection was reopened.')
      const { message, hint, fields: problems } = problemOf(answer.error)
      for (const [path, problem] of Object.entries(problems ?? {})) form.setError(path, { message: problem })
      if (!problems) toast.error(message, { description: hint })
    } catch (problem) {
      if (!(problem instanceof UnreadableField)) throw problem
      form.setError(problem.path, { message: problem.message })
    }
  })
  const archive = async () => {
    const answer = await remove({ id: String(id), operator })
    if (answer.data) void navigate('/rig', { replace: true })
    else toast.error(problemOf(answer.error).message, { description: problemOf(answer.error).hint })
  }
  return (
    <section aria-label="Settings" className="border-t border-base-300 py-4">
      <h2 className="pb-2 text-lg font-bold">Settings</h2>
      <form noValidate onSubmit={(e) => void save(e)}>
        <FormFields form={form} close fields={[{ key: 'name', label: 'Name', kind: 'text' }, ...fields]} />
        <div className="flex flex-wrap items-center gap-5 pt-3">
          <button type="submit" className="slant slant-strong" disabled={isLoading}>
            Save
          </button>
          <button type="button" className="slant slant-plain ml-auto" onClick={() => void archive()}>
            Archive
          </button>
        </div>
      </form>
    </section>
  )
}
