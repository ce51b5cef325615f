import { useParams } from 'react-router'
import { Fetching } from '../components/Problem.tsx'
import { useStopTellingMutation, useToldQuery } from '../store/api.ts'
import { problemOf } from '../store/request.ts'
import { useTheme } from './useTheme.ts'

/** Less of what somebody is told, by the link in a message to them: without signing in. */
export function StopPage() {
  const { token = '' } = useParams()
  const { data, error, refetch } = useToldQuery(token)
  const [stop, { isLoading, error: failed }] = useStopTellingMutation()
  useTheme()
  return (
    <main className="mx-auto w-full max-w-xl px-5 py-10">
      <p className="pb-6 font-bold">Frustum</p>
      {!data ? (
        <Fetching what="this link" error={error} onRetry={refetch} />
      ) : (
        <>
          <h1 className="text-2xl text-pretty">
            What {data.name} is told of {data.site}
          </h1>
          <dl className="my-5 grid grid-cols-[1fr_auto] gap-y-2 border-y border-base-300 py-4 text-lg">
            <dt>What is due: each morning, and when something has to begin</dt>
            <dd className="font-bold">{data.due ? 'told' : 'stopped'}</dd>
            <dt>Alarms</dt>
            <dd className="font-bold">{data.alarms ? 'told' : 'stopped'}</dd>
          </dl>
          <p role="alert" className="text-error">
            {failed && problemOf(failed).message}
          </p>
          <p className="flex flex-wrap gap-4">
            {data.due && (
              <button
                type="button"
                className="slant slant-strong"
                disabled={isLoading}
                onClick={() => void stop({ token, what: 'due' })}
              >
                Stop what is due
              </button>
            )}
            {data.alarms && (
              <button
                type="button"
                className="slant"
                disabled={isLoading}
                onClick={() => void stop({ token, what: 'all' })}
              >
                {data.due ? 'Stop both' : 'Stop alarms'}
              </button>
            )}
          </p>
          <p className="max-w-prose pt-5 text-pretty soft">
            {data.alarms
              ? 'Without alarms, somebody else has to see what goes wrong at night.'
              : 'Nothing is sent any more.'}{' '}
            A lead can set it again: Site, Who is told.
          </p>
        </>
      )}
    </main>
  )
}
