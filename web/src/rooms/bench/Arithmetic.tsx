import type { VisitLive, VisitView } from '@frustum/contract'
import { calibratePhTwoPoint, nernstSlope, OutOfRange } from '@frustum/core'
import type { ReactNode } from 'react'
import { bufferLabel, celsius, fixed, mv, percent, ph, signed } from '../../parts/format.ts'

/** The arithmetic as it happens: for who wants to see where the numbers come from. */
export function Arithmetic({ visit, live }: { visit: VisitView; live: VisitLive | null }) {
  const one = visit.steps.find((s) => s.key === 'first-buffer')?.reading ?? null
  const previous = visit.result?.previous
  return (
    <aside
      aria-label="The arithmetic"
      className="space-y-5 bg-base-200 p-5 lg:w-64 lg:shrink-0 lg:border-l lg:border-base-300"
    >
      <h2 className="text-base soft">The arithmetic</h2>
      {live?.bufferValue != null && (
        <Block title="This buffer here">
          <Big>{ph(live.bufferValue)}</Big>
          at {celsius(live.temperature)}, not {fixed(Number(bufferOf(visit, live).replace('pH', '')), 2)} as on the
          bottle at 25 °C
        </Block>
      )}
      {live?.temperature != null && (
        <Block title="One pH is, for a perfect electrode">
          <Big>{fixed(nernstSlope(live.temperature), 2)} mV</Big>
          ln 10 · R T / F at {celsius(live.temperature)}
        </Block>
      )}
      {one && <SoFar visit={visit} live={live} />}
      <Block title="The device reckons with">
        slope {percent(visit.inForce.slopeEfficiency)} %, zero {mv(visit.inForce.zero)} mV
        {previous ? '' : ''}
      </Block>
    </aside>
  )
}

const bufferOf = (visit: VisitView, live: VisitLive) => (live.step === 'second-buffer' ? visit.second : visit.first)

/** Slope and zero from the first point and what the second will end at. */
function SoFar({ visit, live }: { visit: VisitView; live: VisitLive | null }) {
  const one = visit.steps.find((s) => s.key === 'first-buffer')?.reading
  const two = visit.steps.find((s) => s.key === 'second-buffer')?.reading
  const second =
    two ??
    (live?.step === 'second-buffer' && live.opinion && live.temperature !== null && live.opinion.confidence > 5
      ? live
      : null)
  if (!one?.standard) return null
  const firstPoint = (
    <Block title={`${bufferLabel(visit.first)} gave`}>
      <Big>{mv(one.millivolts)} mV</Big>
      where {ph(one.standard.value)} is right
    </Block>
  )
  if (!second) return firstPoint
  const millivolts =
    'opinion' in second
      ? second.unit === 'mV'
        ? (second.opinion?.predictedEnd ?? 0)
        : (second.millivolts ?? 0)
      : second.millivolts
  const temperature = second.temperature ?? one.temperature
  try {
    const so = calibratePhTwoPoint(
      {
        bufferCode: visit.first,
        millivolts: one.millivolts,
        millivoltsUncertainty: one.millivoltsUncertainty,
        temperature: one.temperature,
      },
      { bufferCode: visit.second, millivolts, millivoltsUncertainty: 1, temperature },
    )
    const step = (so.points[1]?.bufferValue ?? 0) - (so.points[0]?.bufferValue ?? 0)
    return (
      <>
        {firstPoint}
        <Block title={`Measured step over ${fixed(Math.abs(step), 2)} pH`}>
          <Big>{mv(so.measuredStep)} mV</Big>
          perfect: {mv(so.idealStep)} mV
        </Block>
        <Block title={two ? 'Slope' : 'Slope so far'}>
          <Big>{percent(so.slopeEfficiency)} %</Big>
          device now: {percent(visit.inForce.slopeEfficiency)} %
        </Block>
        <Block title={two ? 'Zero' : 'Zero so far'}>
          <Big>{mv(so.zero)} mV</Big>
          moved {signed(so.zero - visit.inForce.zero, 1)} mV from what the device reckons with
        </Block>
      </>
    )
  } catch (error) {
    // Same standard twice, or a temperature off the table: the result says so in its findings.
    if (error instanceof RangeError || error instanceof OutOfRange) return firstPoint
    throw error
  }
}

function Block({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="border-b border-base-300 pb-4 last:border-0">
      <h3 className="text-sm font-normal soft">{title}</h3>
      <div>{children}</div>
    </section>
  )
}

const Big = ({ children }: { children: ReactNode }) => <p className="text-2xl font-bold">{children}</p>
