import type { ProbeView } from '@frustum/contract'
import type { CheckFirst, EndOfLife } from '@frustum/core'
import { Link, useParams } from 'react-router'
import { toast } from 'sonner'
import { Changes } from '../../components/Changes.tsx'
import { For } from '../../components/For.tsx'
import { day, daysUntil, listed, plural, scaledText, text } from '../../components/format.ts'
import { Fetching } from '../../components/Problem.tsx'
import { StateMark } from '../../components/StateMark.tsx'
import { useProbeQuery, useSiteQuery, useUndoRuleMutation } from '../../store/api.ts'
import { actorOf } from '../../store/person.ts'
import { problemOf } from '../../store/request.ts'
import { useAppSelector } from '../../store/store.ts'
import { DeviceSays } from './DeviceSays.tsx'
import { DiagnosisCard } from './DiagnosisCard.tsx'
import { errorsAsRead } from './errorsAsRead.ts'
import { Happened } from './Happened.tsx'
import { HourMeter } from './HourMeter.tsx'
import { LargeFrustum } from './LargeFrustum.tsx'
import { SettlingOverlay } from './SettlingOverlay.tsx'
import { SharedShift } from './SharedShift.tsx'
import { TrendChart } from './TrendChart.tsx'
import { trendsOf } from './trends.ts'
import { VisitTable } from './VisitTable.tsx'
import { WhatIf } from './WhatIf.tsx'

const CHECK_WORDS: Record<CheckFirst, string> = {
  'when-sound': 'While it is sound a visit begins with a check.',
  always: 'Each visit begins with a check, and adjusts only what needs it.',
  never: 'It is calibrated at each visit.',
}

export function ProbePage() {
  const { position = '' } = useParams()
  const { data: probe, error, refetch } = useProbeQuery(position, { refetchOnMountOrArgChange: true })
  const { data: site } = useSiteQuery()
  if (!probe || !site) return <Fetching what={position} error={error} onRetry={refetch} />
  const { timeZone } = site
  const read = errorsAsRead(probe)
  const to = probe.openVisit ? `/bench/${probe.openVisit.id}` : `/bench/start/${probe.position}`
  return (
    // In one column what to do now comes before what was: the next date and the likely cause, then trends and visits.
    <div className="mx-auto grid w-full max-w-[1500px] flex-1 grid-cols-[minmax(0,1fr)] content-start gap-x-8 gap-y-6 px-5 py-5 xl:grid-cols-[minmax(0,1fr)_21.5rem]">
      <div className="min-w-0 space-y-6">
        <header className="flex flex-wrap items-center justify-between gap-4 sm:flex-nowrap">
          <div>
            <h1 className="text-3xl">{probe.position}</h1>
            <p className="max-w-lg soft">
              {listed(
                probe.place,
                probe.spot,
                probe.model,
                probe.serialNumber && `serial ${probe.serialNumber}`,
                `in since ${day(probe.installedAt, timeZone)}`,
              )}
              {probe.cameFrom.map((c) => ` · before that at ${c.position}`)}
            </p>
          </div>
          <div className="flex shrink-0 items-center gap-6">
            <Link to={`/probes/${probe.position}/readings`} className="underline underline-offset-4">
              Readings
            </Link>
            <StateMark state={probe.state} large />
            <For needs={probe.openVisit ? 'viewer' : 'operator'}>
              <Link to={to} className="slant slant-strong">
                {probe.openVisit ? 'Go on' : 'Put on the Bench'}
              </Link>
            </For>
          </div>
        </header>
        <LargeFrustum figure={read.figure} timeZone={timeZone} />
      </div>
      <Says probe={probe} timeZone={timeZone} />
      <div className="min-w-0 space-y-6">
        {trendsOf(probe).map((trend) => (
          <TrendChart key={trend.title} {...trend} events={probe.events} timeZone={timeZone} />
        ))}
        {probe.health.shared && (
          <SharedShift shared={probe.health.shared} position={probe.position} timeZone={timeZone} />
        )}
        <SettlingOverlay settling={probe.health.settling} timeZone={timeZone} />
        <WhatIf key={JSON.stringify(probe.figure.policy)} probe={probe} timeZone={timeZone} />
        <VisitTable probe={read} timeZone={timeZone} />
        <ChangesOf probe={probe} timeZone={timeZone} />
      </div>
    </div>
  )
}

function Says({ probe, timeZone }: { probe: ProbeView; timeZone: string }) {
  const { next } = probe.figure
  const days = daysUntil(next.at)
  return (
    <aside className="space-y-6 border-base-300 xl:row-span-2 xl:border-l xl:pl-6">
      <section>
        <h2 className="pb-1 text-base soft">Next</h2>
        <p className="text-xl">
          {days < 0 ? (
            <>
              <strong>Now</strong> (was due {day(next.at, timeZone)})
            </>
          ) : (
            <>
              <strong>{day(next.at, timeZone)}</strong>, {days === 0 ? 'today' : `in ${plural(days, 'day')}`}
            </>
          )}
        </p>
        <p className="pt-1 text-pretty">{text(next.reason)}</p>
      </section>
      <DiagnosisCard probe={probe} timeZone={timeZone} />
      <EndOfLifeSays probe={probe} timeZone={timeZone} />
      <DeviceSays probe={probe} timeZone={timeZone} />
      <section>
        <h2 className="pb-1 text-base soft">Rules here</h2>
        <p>
          Within ±{' '}
          {text({
            value: probe.figure.policy.tolerance,
            unit: probe.errorScale.unit,
            decimals: probe.errorScale.decimals,
            difference: true,
          })}{' '}
          at {scaledText(probe.processShown, probe.scale)}, {Math.round(100 * probe.figure.policy.reliability)} % sure.
          Interval {probe.figure.policy.floorDays} to {probe.figure.policy.ceilingDays} days.{' '}
          {CHECK_WORDS[probe.figure.policy.checkFirst ?? 'when-sound']}
        </p>
        {probe.authorityRule && <p className="pt-2 font-bold">{probe.authorityRule}</p>}
      </section>
      {probe.figure.policy.method === 'in-use' && (
        <For needs="operator">
          <HourMeter probe={probe} timeZone={timeZone} />
        </For>
      )}
      <Happened probe={probe} timeZone={timeZone} />
    </aside>
  )
}

function EndOfLifeSays({ probe, timeZone }: { probe: ProbeView; timeZone: string }) {
  const { ends, end, orderBy } = probe.health
  if (ends.length === 0 && !end) return null
  return (
    <section>
      <h2 className="pb-1 text-base soft">End of life</h2>
      {end ? (
        <p>
          {end.byCause ? text(end.reason) : <EndOf end={end} timeZone={timeZone} />}
          {orderBy !== null && (
            <>
              {' '}
              Have a spare ordered by <strong>{day(orderBy, timeZone)}</strong>.
            </>
          )}
        </p>
      ) : (
        <p>Beyond what these visits can tell.</p>
      )}
      <ul className="pt-1 text-sm soft">
        {ends.map((e) => (
          <li key={e.name}>{text(e.reason)}</li>
        ))}
      </ul>
    </section>
  )
}

/** When a number gets to its limit. What is open lies beyond two years. */
function EndOf({ end: { name, at, earliest, latest }, timeZone }: { end: EndOfLife; timeZone: string }) {
  const date = (when: number) => day(when, timeZone)
  const soonest = earliest === null ? null : `not before ${date(earliest)} (97.5 % sure)`
  if (at === null)
    return (
      <>
        By its {name} {soonest}. No date yet: two years are as far as it is forecast.
      </>
    )
  return (
    <>
      By its {name} about <strong>{date(at)}</strong>,{' '}
      {earliest !== null && latest !== null
        ? `between ${date(earliest)} and ${date(latest)} (95 % sure)`
        : `${soonest ?? ''}, and it may last longer than two years`}
      .
    </>
  )
}

function ChangesOf({ probe, timeZone }: { probe: ProbeView; timeZone: string }) {
  const [undo, { isLoading }] = useUndoRuleMutation()
  const { operator } = useAppSelector(actorOf)
  const takeBack = async (id: number) => {
    const answer = await undo({ position: probe.position, id: String(id), operator })
    if (answer.error) toast.error(problemOf(answer.error).message)
  }
  if (probe.changes.length === 0) return null
  return (
    <div className="border-t border-base-300 pt-4">
      <Changes changes={probe.changes} timeZone={timeZone} busy={isLoading} onUndo={(id) => void takeBack(id)} />
    </div>
  )
}
