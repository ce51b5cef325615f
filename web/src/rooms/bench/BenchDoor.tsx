import { Link } from 'react-router'
import { Begin } from '../../components/Begin.tsx'
import { For } from '../../components/For.tsx'
import { dayTime, listed } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { StateMark } from '../../components/StateMark.tsx'
import { useRoundsQuery, useSiteQuery } from '../../store/api.ts'

/** The way into the Bench: what is half done, and what could be started. */
export function BenchDoor() {
  const { data, error, refetch } = useRoundsQuery(undefined, { refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  if (!data || !site) return <Fetching what="the Bench" error={error} onRetry={refetch} />
  const { rows } = data
  if (rows.length + data.empty.length === 0) {
    return (
      <Begin room="Bench">
        Here you are taken through each calibration: what to do now, the reading as you type it or as the line brings
        it, the arithmetic, and what it means. It begins with a sensor.
      </Begin>
    )
  }
  const open = rows.filter((r) => r.openVisit)
  return (
    <div className="mx-auto w-full max-w-4xl px-5 py-6">
      <h1 className="text-2xl">{open.length > 0 ? 'Half done' : 'Nothing is on the Bench'}</h1>
      <ul className="mt-3 border-t border-base-300">
        {open.map((r) => (
          <li
            key={r.position}
            className="flex flex-wrap items-center justify-between gap-4 border-b border-base-300 py-3"
          >
            <span>
              <span className="font-bold">{r.position}</span>{' '}
              <span className="soft">
                {listed(r.place, r.spot)}. At “{r.openVisit?.step}”, {r.openVisit?.operator} since{' '}
                {dayTime(r.openVisit?.since ?? 0, site.timeZone)}
              </span>
            </span>
            <Link className="slant slant-strong" to={`/bench/${r.openVisit?.id}`}>
              Go on
            </Link>
          </li>
        ))}
      </ul>
      <For needs="operator">
        <h2 className="pt-8 pb-2 text-base soft">Put one on the Bench</h2>
        <ul className="grid gap-x-10 sm:grid-cols-2">
          {rows
            .filter((r) => !r.openVisit)
            .map((r) => (
              <li key={r.position} className="flex items-center justify-between gap-3 border-b border-base-300 py-2">
                <Link className="min-h-11 flex-1 content-center hover:underline" to={`/bench/start/${r.position}`}>
                  <span className="font-bold">{r.position}</span> <span className="soft">{r.spot}</span>
                </Link>
                <StateMark state={r.state} />
              </li>
            ))}
          {data.empty.map((e) => (
            <li key={e.position} className="flex items-center justify-between gap-3 border-b border-base-300 py-2">
              <Link className="min-h-11 flex-1 content-center hover:underline" to={`/bench/start/${e.position}`}>
                <span className="font-bold">{e.position}</span> <span className="soft">{e.spot}</span>
              </Link>
              <span className="soft">no sensor</span>
            </li>
          ))}
        </ul>
      </For>
    </div>
  )
}
