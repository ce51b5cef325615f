import type { ProbeView } from '@frustum/contract'
import { PH_LIMITS } from '@frustum/core'
import { Link, useParams } from 'react-router'
import { day, daysUntil, fixed, mv, percent, ph, plural, sentence, signed } from '../../parts/format.ts'
import { Fetching } from '../../parts/Problem.tsx'
import { StateMark } from '../../parts/StateMark.tsx'
import { useProbeQuery, useSiteQuery } from '../../store/api.ts'
import { LargeFrustum } from './LargeFrustum.tsx'
import { TrendChart } from './TrendChart.tsx'

export function ProbePage() {
  const { position = '' } = useParams()
  const { data: probe, error, refetch } = useProbeQuery(position, { refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  if (!probe || !site) return <Fetching what={position} error={error} onRetry={refetch} />
  const { timeZone } = site
  const zero = probe.calibrations.map((c) => ({ at: c.at, value: c.zero, bar: c.zeroUncertainty }))
  const slope = probe.calibrations.map((c) => ({
    at: c.at,
    value: 100 * c.slopeEfficiency,
    bar: 100 * c.slopeEfficiencyUncertainty,
  }))
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
        <TrendChart
          title="Zero at pH 7"
          unit="mV"
          decimals={1}
          points={zero}
          sound={[-PH_LIMITS.zeroSound, PH_LIMITS.zeroSound]}
          limits={[
            { value: PH_LIMITS.zeroWatch, word: 'suspect' },
            { value: -PH_LIMITS.zeroWatch, word: 'suspect' },
          ]}
          events={probe.events}
          timeZone={timeZone}
        />
        <TrendChart
          title="Slope"
          unit="% of ideal"
          decimals={1}
          points={slope}
          sound={[100 * PH_LIMITS.slopeSound, 100 * PH_LIMITS.slopeHigh]}
          limits={[
            { value: 100 * PH_LIMITS.slopeAgeing, word: 'order one' },
            { value: 100 * PH_LIMITS.slopeReplace, word: 'replace' },
          ]}
          events={probe.events}
          timeZone={timeZone}
        />
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
        <p>
          slope {percent(probe.inForce.slopeEfficiency)} %, zero {mv(probe.inForce.zero)} mV
        </p>
      </section>
      <section>
        <h2 className="pb-1 text-base soft">Rules here</h2>
        <p>
          Within ± {ph(probe.figure.policy.tolerance)} pH at {ph(probe.processValue)},{' '}
          {Math.round(100 * probe.figure.policy.reliability)} % sure. Not sooner than every{' '}
          {probe.figure.policy.floorDays} days, not later than every {probe.figure.policy.ceilingDays}.
        </p>
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
        Visits <span className="font-normal soft">({probe.visits.length})</span>
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
                <td className="py-2 pr-4 whitespace-nowrap">{day(v.at, timeZone)}</td>
                <td className="pr-4">{v.kind === 'check' ? 'check' : 'two points'}</td>
                <td className="pr-4 font-mono">{v.asFound === null ? '–' : signed(v.asFound, 2)}</td>
                <td className="pr-4 font-mono">{v.fouling === null ? '–' : `${signed(v.fouling, 1)} mV`}</td>
                <td className="pr-4 font-mono">
                  {signed(v.asLeft, 2)} <span className="soft">± {fixed(v.uncertainty, 2)}</span>
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
