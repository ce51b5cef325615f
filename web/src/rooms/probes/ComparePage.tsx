import { Link, useSearchParams } from 'react-router'
import { day, percent } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { StateMark } from '../../components/StateMark.tsx'
import { useProbeQuery, useSiteQuery } from '../../store/api.ts'
import { LargeFrustum } from './LargeFrustum.tsx'
import { TrendChart } from './TrendChart.tsx'
import { trendsOf } from './trends.ts'

/** Up to four probes side by side. */
export function ComparePage() {
  const [search] = useSearchParams()
  const { data: site } = useSiteQuery()
  const positions = (search.get('of') ?? '').split(',').filter(Boolean).slice(0, 4)
  if (!site) return <Fetching what="the site" error={undefined} onRetry={() => undefined} />
  return (
    <div className="w-full px-5 py-5">
      <p>
        <Link to="/probes" className="underline underline-offset-4">
          Probes
        </Link>
      </p>
      <h1 className="pb-4 text-2xl">Side by side</h1>
      {positions.length === 0 && <p>Tick two to four probes in the table of the fleet, and compare them from there.</p>}
      <div
        className={`grid gap-x-8 gap-y-6 ${positions.length > 1 ? 'xl:grid-cols-2' : ''} ${positions.length > 2 ? '2xl:grid-cols-3' : ''}`}
      >
        {positions.map((p) => (
          <Compared key={p} position={p} timeZone={site.timeZone} />
        ))}
      </div>
    </div>
  )
}

function Compared({ position, timeZone }: { position: string; timeZone: string }) {
  const { data: probe, error, refetch } = useProbeQuery(position)
  if (!probe) return <Fetching what={position} error={error} onRetry={refetch} />
  const first = probe.health.tooLittle ? null : probe.health.ranked[0]
  return (
    <article className="min-w-0 space-y-4 border-t border-base-300 pt-4">
      <header className="flex items-baseline justify-between gap-4">
        <h2 className="text-xl">
          <Link to={`/probes/${position}`} className="hover:underline">
            {position}
          </Link>{' '}
          <span className="text-base font-normal soft">{probe.spot}</span>
        </h2>
        <StateMark state={probe.state} />
      </header>
      <p>
        Next <strong>{day(probe.figure.next.at, timeZone)}</strong>
        {first && (
          <>
            ; likely {first.name}, {percent(first.probability)}
          </>
        )}
      </p>
      <LargeFrustum figure={probe.figure} timeZone={timeZone} />
      {trendsOf(probe).map((trend) => (
        <TrendChart key={trend.title} {...trend} events={probe.events} timeZone={timeZone} />
      ))}
    </article>
  )
}
