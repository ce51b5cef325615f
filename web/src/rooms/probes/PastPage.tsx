import { addressOf, ENDPOINTS } from '@frustum/contract/endpoints'
import { Link, useParams } from 'react-router'
import { Line, LineChart, ReferenceArea, ResponsiveContainer, XAxis, YAxis } from 'recharts'
import { TICK, timeAxis } from '../../components/axis.ts'
import { day, fixed } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { usePastQuery, useProbeQuery, useSiteQuery } from '../../store/api.ts'
import { whatItMeans } from './pastWords.ts'

/** What the error found at a visit means for the readings before it: raw and corrected, side by side. */
export function PastPage() {
  const { position = '', visit = '' } = useParams()
  const { data: past, error, refetch } = usePastQuery({ position, visit }, { refetchOnMountOrArgChange: true })
  const { data: probe } = useProbeQuery(position)
  const { data: site } = useSiteQuery()
  if (!past || !probe || !site) return <Fetching what="the readings" error={error} onRetry={refetch} />
  const { timeZone } = site
  const { unit, decimals } = past
  const values = past.readings.flatMap((r) => [r.raw, r.corrected])
  const pad = 0.08 * (Math.max(...values) - Math.min(...values)) || 1
  const domain: [number, number] = [Math.min(...values) - pad, Math.max(...values) + pad]
  return (
    <div className="mx-auto w-full max-w-5xl space-y-5 px-5 py-5">
      <p>
        <Link to={`/probes/${position}`} className="underline underline-offset-4">
          {position}
        </Link>
      </p>
      <h1 className="text-2xl">
        Readings from {day(past.from, timeZone)} to {day(past.to, timeZone)}
      </h1>
      <p className="max-w-prose text-lg text-pretty">{whatItMeans(past, probe, timeZone)}</p>
      {past.readings.length === 0 ? (
        <p className="soft">No readings were logged in these days; there is nothing to correct.</p>
      ) : (
        <div className="h-80" role="img" aria-label="Logged readings and what they are corrected to">
          <ResponsiveContainer width="100%" height="100%">
            <LineChart data={past.readings} margin={{ top: 20, right: 90, bottom: 4, left: 0 }}>
              <XAxis {...timeAxis(timeZone)} domain={[past.from, past.to]} tickCount={6} />
              <YAxis
                domain={domain}
                allowDataOverflow
                tick={TICK}
                stroke="var(--line)"
                width={68}
                tickFormatter={(v: number) => fixed(v, decimals)}
                label={{ value: unit, position: 'insideTopLeft', fill: 'var(--soft)', fontSize: 13, dy: -18, dx: 10 }}
              />
              {past.out.map((o) => (
                <ReferenceArea
                  key={o.from}
                  x1={o.from}
                  x2={o.to}
                  fill="var(--color-error)"
                  fillOpacity={0.08}
                  label={{ value: 'out of its limit', position: 'insideTop', fill: 'var(--color-error)', fontSize: 13 }}
                />
              ))}
              <Line dataKey="raw" name="raw" stroke="var(--soft)" dot={false} isAnimationActive={false} />
              <Line
                dataKey="corrected"
                name="corrected"
                stroke="var(--color-primary)"
                strokeWidth={2}
                dot={false}
                isAnimationActive={false}
              />
            </LineChart>
          </ResponsiveContainer>
        </div>
      )}
      <p className="soft">
        Thin: as logged. Bold: corrected, the error growing in a straight line from what the earlier visit left to what
        this one found (after USGS TM 1-D3). The logged readings are never changed.
      </p>
      <dl className="grid max-w-md grid-cols-[10rem_1fr] gap-y-1 border-y border-base-300 py-3">
        <dt className="soft">Rating by TM 1-D3</dt>
        <dd data-testid="rating">{past.rating}</dd>
        <dt className="soft">What to do</dt>
        <dd>{past.action}</dd>
      </dl>
      <a href={addressOf(ENDPOINTS.pastCsv, { position, visit })} download className="slant slant-strong">
        Raw and corrected as CSV
      </a>
    </div>
  )
}
