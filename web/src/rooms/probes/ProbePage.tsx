import type { ProbeView } from '@frustum/contract'
import { channelOf, parametersText } from '@frustum/core'
import { Link, useParams } from 'react-router'
import { day, daysUntil, fixed, plural, scaled, sentence, signed } from '../../parts/format.ts'
import { Fetching } from '../../parts/Problem.tsx'
import { StateMark } from '../../parts/StateMark.tsx'
import { useProbeQuery, useSiteQuery } from '../../store/api.ts'
import { LargeFrustum } from './LargeFrustum.tsx'
import { TrendChart } from './TrendChart.tsx'
import { trendsOf } from './trends.ts'

export function ProbePage() {
  const { position = '' } = useParams()
  const { data: probe, error, refetch } = useProbeQuery(position, { refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  if (!probe || !site) return <Fetching what={position} error={error} onRetry={refetch} />
  const { timeZone } = site
  const to = probe.openVisit ? `/bench/${probe.openVisit.id}` : `/bench/start/${probe.position}`
  return (
    <div className="mx-auto flex w-full max-w-[1500px] flex-1 flex-col gap-8 px-5 py-5 xl:flex-row">
      <div className="min-w-0 flex-1 space-y-6">
        <header className="flex flex-wrap items-center justify-between gap-4 sm:flex-nowrap">
          <div>
            <h1 className="text-3xl">{probe.position}</h1>
            <p className="max-w-lg soft">
              {probe.place}, {probe.spot} · {probe.model}, serial {probe.serialNumber} · in since{' '}
              {day(probe.installedAt, timeZone)}
            </p>
          </div>
          <div className="flex shrink-0 items-center gap-6">
            <StateMark state={probe.state} large />
            <Link to={to} className="slant slant-strong">
              {probe.openVisit ? 'Go on' : 'Put on the Bench'}
            </Link>
          </div>
        </header>
        <LargeFrustum figure={probe.figure} timeZone={timeZone} />
        {trendsOf(probe).map((trend) => (
          <TrendChart key={trend.title} {...trend} events={probe.events} timeZone={timeZone} />
        ))}
        <Visits probe={probe} timeZone={timeZone} />
      </div>
      <Says probe={probe} timeZone={timeZone} />
    </div>
  )
}

function Says({ probe, timeZone }: { probe: ProbeView; timeZone: string }) {
  const { next } = probe.figure
  const days = daysUntil(next.at)
  return (
    <aside className="space-y-6 border-base-300 xl:w-72 xl:shrink-0 xl:border-l xl:pl-6">
      <section>
        <h2 className="pb-1 text-base soft">Next</h2>
        <p className="text-xl">
          <strong>{day(next.at, timeZone)}</strong>,{' '}
          {days < 0 ? `${plural(-days, 'day')} ago` : days === 0 ? 'today' : `in ${plural(days, 'day')}`}
        </p>
        <p className="pt-1 text-pretty">{sentence(next.reason)}</p>
      </section>
      <section>
        <h2 className="pb-1 text-base soft">The device reckons with</h2>
        <p>{sentence(parametersText({ channel: channelOf(probe.kind) }, probe.inForce))}</p>
        {probe.device.factoryCell && <p className="soft">A factory-calibrated cell: tested, never adjusted.</p>}
      </section>
      <section>
        <h2 className="pb-1 text-base soft">Rules here</h2>
        <p>
          Within ± {fixed(probe.figure.policy.tolerance, probe.errorScale.decimals)} {probe.errorScale.unit} at{' '}
          {scaled(probe.processShown, probe.scale)} {probe.scale.unit},{' '}
          {Math.round(100 * probe.figure.policy.reliability)} % sure. Not sooner than every{' '}
          {probe.figure.policy.floorDays} days, not later than every {probe.figure.policy.ceilingDays}.
        </p>
        {probe.authorityRule && <p className="pt-2 font-bold">{probe.authorityRule}</p>}
      </section>
      {probe.events.length > 0 && (
        <section>
          <h2 className="pb-1 text-base soft">What happened</h2>
          <ul className="space-y-2">
            {probe.events.map((e) => (
              <li key={e.at}>
                <strong>{day(e.at, timeZone)}</strong> {e.note}
              </li>
            ))}
          </ul>
        </section>
      )}
    </aside>
  )
}

function Visits({ probe, timeZone }: { probe: ProbeView; timeZone: string }) {
  const shown = probe.visits.slice(0, 20)
  return (
    <section>
      <h2 className="pb-2 text-base">
        Visits{' '}
        <span className="font-normal soft">
          ({probe.visits.length}, errors in {probe.errorScale.unit})
        </span>
      </h2>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a table wider than the screen must scroll by keyboard */}
      <section className="overflow-x-auto" aria-label="Visits" tabIndex={0}>
        <table className="w-full min-w-150 text-left">
          <thead className="soft">
            <tr className="border-b border-base-300">
              {['Date', 'What', 'As found', 'Fouling', 'As left', 'Done', 'By'].map((h) => (
                <th key={h} scope="col" className="py-2 pr-4 font-normal">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {shown.map((v) => (
              <tr key={v.id} className="border-b border-base-300">
                <td className="py-2 pr-4 whitespace-nowrap">
                  <Link to={`/ledger/${v.id}`} className="underline underline-offset-4">
                    {day(v.at, timeZone)}
                  </Link>
                </td>
                <td className="pr-4">{v.name.toLowerCase()}</td>
                <td className="pr-4 font-mono">
                  {v.asFound === null ? '–' : signed(v.asFound, probe.errorScale.decimals)}
                </td>
                <td className="pr-4 font-mono">
                  {v.fouling === null ? '–' : signed(v.fouling, probe.errorScale.decimals)}
                </td>
                <td className="pr-4 font-mono">
                  {signed(v.asLeft, probe.errorScale.decimals)}{' '}
                  <span className="soft">± {fixed(v.uncertainty, probe.errorScale.decimals)}</span>
                </td>
                <td className="pr-4">{v.adjusted ? 'adjusted' : 'left alone'}</td>
                <td className="whitespace-nowrap">{v.operator}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      {probe.visits.length > shown.length && <p className="pt-2 soft">The newest {shown.length} are shown.</p>}
    </section>
  )
}
